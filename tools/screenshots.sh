#!/usr/bin/env bash
# Makes the pictures of docs/screenshots from the demo data. Needs Chromium for the terminal and the report.
set -euo pipefail
shots=docs/screenshots
program="$R_LIBS/bemrick/exec/bemrick"
[ -x "$program" ] || program="build/lib/bemrick/exec/bemrick"
if ! command -v chromium >/dev/null 2>&1; then
  [ "$(id -u)" = 0 ] && apt-get install -y -qq --no-install-recommends chromium fonts-dejavu-core >/dev/null || true
fi
command -v chromium >/dev/null 2>&1 || { echo "Chromium is needed for the screenshots." >&2; exit 1; }
mkdir -p "$shots" build

page() {  # page URL FILE
  chromium --headless --no-sandbox --disable-gpu --disable-quic --no-first-run --disable-background-networking \
    --disable-component-update --disable-sync --user-data-dir="$(mktemp -d)" --hide-scrollbars \
    --window-size=1280,800 --screenshot="$2" "$1" >/dev/null 2>&1
}

[ -d build/demo ] && again="--replace" || again=""
{ echo '$ bemrick demo'; "$program" demo --out build/demo $again 2>&1; } > build/terminal.txt
{
  echo '<meta charset="utf-8"><style>body{margin:0;background:#1d262c;color:#dfe7ea;font:10.5px/1.2 "DejaVu Sans Mono",monospace}pre{margin:18px 22px}</style><pre>'
  sed -e 's/&/\&amp;/g' -e 's/</\&lt;/g' build/terminal.txt
  echo '</pre>'
} > build/terminal.html
page "file://$PWD/build/terminal.html" "$shots/demo-terminal.png"
cp build/demo/ledger/d50-of-beads.png "$shots/ledger.png"
# the report as a page, and printed on the lab's own paper
page "file://$PWD/build/demo/results/alumina-beads/report.html" build/report-page.png
"$program" report build/demo/results/alumina-beads --format pdf --lab inst/extdata/ardlow.lab.yml \
  --facts "customer=Norvale Filters; order=4711" >/dev/null
pdftoppm -r 68 -png -singlefile -l 1 build/demo/results/alumina-beads/report.pdf build/report-paper
Rscript -e 'page <- png::readPNG("build/report-page.png")[, , 1:3]
  paper <- png::readPNG("build/report-paper.png")[, , 1:3]
  both <- array(0.6, c(max(nrow(page), nrow(paper)), ncol(page) + ncol(paper) + 20, 3))
  both[seq_len(nrow(page)), seq_len(ncol(page)), ] <- page
  both[seq_len(nrow(paper)), ncol(page) + 20 + seq_len(ncol(paper)), ] <- paper
  png::writePNG(both, "docs/screenshots/report.png")'
# the nine plates side by side as one picture
mkdir -p build/mosaic
Rscript -e 'images <- sort(list.files("build/demo/diffuser-plates/images"))
  size <- dim(bemrick::read_field(file.path("build/demo/diffuser-plates/images", images[1])))
  k <- seq_along(images) - 1
  write.csv(
    data.frame(
      image = file.path("../demo/diffuser-plates/images", images), x = k %% 3 * size[2], y = k %/% 3 * size[1]
    ),
    "build/mosaic/plates.csv", row.names = FALSE
  )'
echo "batch,sample,field,image,calibration
DP3-0817,all,1,plates.csv,../demo/diffuser-plates/light-200x.calibration.yml" > build/mosaic/batch.csv
"$program" batch build/mosaic/batch.csv --method build/demo/diffuser-plates/plates.method.yml --out build/mosaic/results \
  --replace --quiet >/dev/null || true
page "file://$PWD/build/mosaic/results/overlays/DP3-0817_all_1.html" "$shots/tiles.png"
"$program" inspect build/demo/alumina-beads/images/ab-2611-a1.png --figure "$shots/inspect.png" --replace >/dev/null
"$program" inspect build/demo/diffuser-plates/images/dp3-0817-a1.tif --rules "$shots/rules.png" --replace >/dev/null
Rscript -e 'library(bemrick)
  plate <- calibrate(read_field("build/demo/diffuser-plates/images/dp3-0817-a1.tif"), "build/demo/diffuser-plates/light-200x.calibration.yml")
  draw <- function(figure, name, width = 1280, height = 800) {
    save_figure(figure, file.path("docs/screenshots", name), width, height, replace = TRUE)
  }
  pores <- accept_objects(measure_objects(find_objects(mask_open(segment_auto(filter_median(plate, 1), phase = "dark"), 1.5))))
  draw(ggplot2::autoplot(level_response(pores)), "level-response.png")
  beads <- calibrate(read_field("build/demo/alumina-beads/images/ab-2611-a1.png"), "build/demo/alumina-beads/sem-500x.calibration.yml")
  beads <- apply_method(beads, "build/demo/alumina-beads/beads.method.yml")
  save_figure(
    ggplot2::autoplot(beads, "Size classes", draw = "filled", of = "ecd"),
    "build/overlay-classes.png", 1280, 800, replace = TRUE
  )
  plates <- read_run("build/demo/results/diffuser-plates")
  # two figures in one file, one above the other
  drawn <- function(figure, height) {
    file <- tempfile(fileext = ".png")
    save_figure(figure, file, 1280, height)
    png::readPNG(file)[, , 1:3]
  }
  both <- function(above, below, name, heights = c(800, 800)) {
    a <- drawn(above, heights[1])
    b <- drawn(below, heights[2])
    c <- array(0, c(nrow(a) + nrow(b), 1280, 3))
    c[seq_len(nrow(a)), , ] <- a
    c[nrow(a) + seq_len(nrow(b)), , ] <- b
    png::writePNG(c, file.path("docs/screenshots", name))
  }
  both(
    ggplot2::autoplot(plates$verdict), ggplot2::autoplot(plates$verdict, "budget"), "verdict.png",
    c(860, 800)
  )
  fitted <- ggplot2::autoplot(fit_distribution(size_distribution(plates, weight = "area")))
  torn <- calibrate(
    read_field("build/demo/sieve-cloth/images/sc-125-b2.png"), "build/demo/sieve-cloth/light-table.calibration.yml"
  )
  widths <- apply_method(torn, "build/demo/sieve-cloth/cloth.method.yml")$across
  draw(ggplot2::autoplot(widths, "sc-125-b2.png"), "gauge.png", 1280, 1020)
  glaze <- calibrate(
    read_field("build/demo/barrier-glaze/images/bg-2204-a1.png"), "build/demo/barrier-glaze/section.calibration.yml"
  )
  lines <- apply_method(glaze, "build/demo/barrier-glaze/glaze.method.yml")
  draw(ggplot2::autoplot(lines, title = "bg-2204-a1.png"), "thickness.png", 1280, 1020)
  clip <- read_pattern("build/demo/clip-plates/clip.pattern.yml")
  stand <- read_calibration("build/demo/clip-plates/stand.calibration.yml")
  tip <- function(finds) measure_region(finds, region_box(254, 151, 266, 159), low = 108)
  clips <- function(name) {
    plate <- read_field(paste0("build/demo/clip-plates/images/cp-1103-", name, ".png"))
    locate_pattern(calibrate(plate, stand), clip)
  }
  bad <- accept_finds(tip(locate_pattern(simulate_plate(damaged = 5, seed = 5), clip)), score = c(NA, 0.95))
  both(
    ggplot2::autoplot(clips("b2"), "cp-1103-b2.png"),
    ggplot2::autoplot(suggest_limits(lapply(c("a1", "a2", "a3"), clips), bad, "score")),
    "locate.png"
  )
  sample <- function(name) {
    run <- read_run("build/demo/results/alumina-beads")
    run$objects <- run$objects[run$objects$sample == name, ]
    run
  }
  shifted <- ggplot2::autoplot(
    compare_distributions(sample("A"), sample("B")), c("sample A", "sample B")
  )
  both(fitted, shifted, "sizes.png")'
Rscript -e 'a <- jpeg::readJPEG("build/demo/results/diffuser-plates/overlays/DP3-0817_A_1.jpg")
  b <- png::readPNG("build/overlay-classes.png")[, , 1:3]
  c <- array(1, c(nrow(a) + nrow(b), max(ncol(a), ncol(b)), 3))
  c[seq_len(nrow(a)), seq_len(ncol(a)), ] <- a
  c[nrow(a) + seq_len(nrow(b)), seq_len(ncol(b)), ] <- b
  png::writePNG(c, "docs/screenshots/overlay.png")'
"$program" look build/demo/results/alumina-beads --sample A --field 1 --id 17 --out "$shots/look.png" --replace >/dev/null
"$program" calibrate build/demo/scales/stage-tilted.png --grid "1 mm" --name "Stage at 14 degrees" \
  --figure "$shots/calibrate-grid.png" --replace
# the desk, driven in a browser
bash tools/setup-browser.sh
rm -rf build/desk build/desk-address.txt
beads=build/demo/alumina-beads
"$program" desk "$beads/batch.csv" --method "$beads/beads.method.yml" --spec "$beads/beads.spec.yml" --folder build/desk \
  --no-browser > build/desk-address.txt &
until grep -qs "key=" build/desk-address.txt; do sleep 0.2; done
node tests/testthat/desk/driver.mjs "{\"address\": \"$(grep -o 'http://.*' build/desk-address.txt)\",
  \"browser\": \"$(command -v chromium)\", \"driver\": \"$PWD/build/browser/node_modules/playwright-core\",
  \"script\": \"$PWD/tools/desk-shots.mjs\", \"out\": \"$PWD/build/desk-shots.json\"}"
kill %1
ls -l "$shots"
