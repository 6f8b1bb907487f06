test_that("edges without sense are refused", {
  refused <- function(code, words, class = "bemrick_error_edge") {
    expect_error(code, words, class = class)
  }
  refused(edge_line(1, 1), "at least 2 corners")
  refused(edge_polygon(1:2, 1:2), "at least 3 corners")
  refused(edge_line(1:3, 1:2), "as many x as y")
  refused(edge_circle(1, 2, 0), "above zero")
  refused(edge_line(c(1, "3 um2"), 1:2), "lengths", "bemrick_error_quantity")
  refused(as_edge(list(line = 1:3)), "not an edge")
  refused(as_edge(3), "not an edge")
  refused(as_edge(list(trace = list(reach = 5))), "needs along and polarity")
  refused(as_edge(list(trace = list(along = list(line = 1:4), raech = 5))), "reach",
    "bemrick_error_unknown_name")
  refused(as_edge(list(lime = 1:4)), "line", "bemrick_error_unknown_name")
  field <- as_field(matrix(0, 40, 50))
  refused(layer_between(field, edge_line(c(1, 1), c(2, 2)), edge_line(1:2, 3:4)), "the same")
  refused(layer_between(field, edge_line(c(90, 99), c(2, 2)), edge_line(1:2, 3:4)), "outside")
  refused(layer_between(field, edge_circle(9, 9, 5), edge_line(1:2, 3:4)), "the other is not")
})

test_that("edges are read from tables and GeoJSON", {
  file <- withr::local_tempfile(fileext = ".csv", lines = c(
    "edge;x;y", "top;0;40,5", "top;200;41", "bottom;0;90", "bottom;200;88"
  ))
  edges <- read_edges(file)
  expect_named(edges, c("top", "bottom"))
  expect_identical(edges$top, edge_line(c(0, 200), c(40.5, 41)))
  one <- withr::local_tempfile(fileext = ".csv", lines = c("x,y", "0,4", "20,5", "30,4"))
  expect_identical(read_edges(one), list(edge = edge_line(c(0, 20, 30), c(4, 5, 4))))
  json <- withr::local_tempfile(fileext = ".geojson", lines = paste0(
    "{\"type\": \"FeatureCollection\", \"features\": [",
    "{\"type\": \"Feature\", \"properties\": {\"name\": \"inner\"}, \"geometry\": {\"type\": ",
    "\"Polygon\", \"coordinates\": [[[1, 1], [9, 1], [5, 7], [1, 1]]]}},",
    "{\"type\": \"Feature\", \"properties\": {}, \"geometry\": {\"type\": ",
    "\"LineString\", \"coordinates\": [[1, 1], [9, 1]]}}]}"
  ))
  read <- read_edges(json)
  expect_named(read, c("inner", "edge 2"))
  expect_identical(read$inner, edge_polygon(c(1, 9, 5), c(1, 1, 7)))
  expect_identical(read[[2]], edge_line(c(1, 9), c(1, 1)))

  refused <- function(lines, words, ext = ".csv") {
    file <- withr::local_tempfile(fileext = ext, lines = lines)
    expect_refused(read_edges(file), words, class = "file_content")
  }
  refused(c("x,z", "1,2"), "no column y")
  refused(c("x,y", "1,2", "a,3"), "no number in row 3")
  refused(c("x,y", "1,2"), "not valid")
  line <- function(points) paste0(
    "{\"features\": [{\"properties\": {}, \"geometry\": {\"type\": \"LineString\", \"coordinates\": ",
    points, "}}, {\"properties\": {}, \"geometry\": {\"type\": \"LineString\", \"coordinates\": [[1, 2], [3, 4]]}}]}"
  )
  for (points in c("[[1, 2]]", "[[1, 2], [3]]", "[[1, 2], [3, \"a\"]]", "[[1, 2], [3, 1e999]]", "7")) {
    refused(line(points), "does not hold edges", ".json")
  }
  refused("{\"features\": []}", "does not hold edges", ".json")
  refused("{\"features\": [{\"geometry\": {\"type\": \"Point\"}}]}", "does not hold edges", ".json")
  expect_refused(read_edges("nothing.csv"), class = "file")
})
