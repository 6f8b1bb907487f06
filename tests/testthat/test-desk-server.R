test_that("two desks do not share their state, and each ends with its page", {
  a <- open_apart(kit("beads.png"), kit("beads.method.yml"))
  b <- open_apart(kit("beads.png"), kit("beads.method.yml"))
  expect_false(a$port == b$port || a$key == b$key)
  expect_equal(act_at(a, do = "limit", measure = "ecd", low = "30 px")$status, 200L)
  expect_equal(json_of(asked_of(a, "/view"))$actions, 1)
  expect_equal(json_of(asked_of(b, "/view"))$actions, 0)
  expect_equal(asked_of(b, "/view", cookie = a$key)$status, 403L)
  expect_equal(asked_of(a, "/close", "POST", "{}")$status, 200L)
  a$process$wait(10000)
  expect_true(a$process$get_result())
  expect_equal(asked_of(b, "/view")$status, 200L)
})

test_that("a desk that cannot be opened says so before anything listens", {
  skip_if_not_installed("httpuv")
  expect_error(open_desk("nowhere.png"), class = "bemrick_error_file")
  expect_error(open_desk(kit("beads.png"), folder = kit("beads.png")), class = "bemrick_error_file")
  expect_error(open_desk(kit("beads.png"), port = 0), class = "bemrick_error_argument")
  expect_error(open_desk(kit("beads.png"), browse = NA), class = "bemrick_error_argument")
  expect_error(open_desk(kit("beads.png"), on_open = 3), class = "bemrick_error_argument")
  server <- httpuv::startServer("127.0.0.1", httpuv::randomPort(), list(call = function(r) NULL))
  withr::defer(httpuv::stopServer(server))
  expect_error(
    open_desk(kit("beads.png"), port = server$getPort()), class = "bemrick_error_port"
  )
})
