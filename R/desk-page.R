# The page of a desk: a constant frame that its scripts fill.

desk_page <- function() {
  tags <- htmltools::tags
  tool <- function(name, label, key = NULL) {
    title <- if (!is.null(key)) paste0("Key ", key)
    tags$button(
      type = "button", class = "btn btn-sm btn-outline-dark", `data-tool` = name, title = title,
      label
    )
  }
  plain <- function(id, label, ...) {
    tags$button(type = "button", class = "btn btn-sm btn-outline-dark", id = id, label, ...)
  }
  page <- tags$html(
    lang = "en",
    tags$head(
      tags$meta(charset = "utf-8"), tags$title("Bemrick desk"),
      tags$link(rel = "stylesheet", href = "/part/bootstrap.min.css"),
      tags$link(rel = "stylesheet", href = "/part/desk.css"),
      tags$link(rel = "icon", href = "data:,"),
      tags$script(src = "/part/bootstrap.bundle.min.js"),
      lapply(
        c(
          "api", "bars", "dialogs", "drawing", "forms", "measures", "names", "panels", "picture",
          "rows", "shapes"
        ),
        function(name) tags$link(rel = "modulepreload", href = paste0("/part/", name, ".js"))
      ),
      tags$script(type = "module", src = "/part/desk.js")
    ),
    tags$body(
      class = "busy",
      tags$header(
        tags$b("Bemrick desk"),
        tags$input(id = "title", `aria-label` = "Title of the method", spellcheck = "false"),
        tags$span(id = "branches", hidden = NA),
        plain("undo", "Undo"), plain("redo", "Redo"), plain("save", "Save"), plain("close", "Close")
      ),
      tags$nav(id = "places", tags$div(id = "trail"), tags$div(id = "ends")),
      tags$section(
        id = "left",
        tags$div(
          id = "pane",
          tags$canvas(id = "picture", tabindex = "0", `aria-label` = "Picture"),
          tags$span(id = "hint"), tags$span(id = "readout"),
          tags$div(id = "problem", hidden = NA, role = "alert")
        ),
        tags$div(
          id = "tools",
          tool("move", "Move", "m"), tool("cut", "Cut", "c"), tool("join", "Join", "j"),
          tool("exclude", "Leave out", "x"), tags$span(class = "gap"),
          tool("box", "Box", "b"), tool("polygon", "Polygon", "p"), tool("circle", "Circle"),
          tool("ring", "Ring"), tool("line", "Line", "l"), tool("arc", "Arc"),
          tool("polyline", "Polyline"), plain("teach", "Teach"), tags$span(class = "gap"),
          plain("whole", "Whole picture"),
          plain("outlines", "Outlines")
        ),
        tags$nav(id = "strip", `aria-label` = "Pictures")
      ),
      tags$aside(id = "side"),
      tags$div(
        class = "modal", id = "dialog", tabindex = "-1",
        tags$div(class = "modal-dialog modal-lg", tags$div(
          class = "modal-content",
          tags$div(class = "modal-header", tags$h2(id = "dialog-title")),
          tags$div(class = "modal-body", id = "dialog-body"),
          tags$div(class = "modal-footer", id = "dialog-foot")
        ))
      ),
      tags$div(
        class = "toast", id = "said", role = "alert",
        tags$div(class = "toast-body", id = "said-text")
      )
    )
  )
  charToRaw(enc2utf8(paste0("<!DOCTYPE html>\n", htmltools::doRenderTags(page), "\n")))
}
