library(testthat)
library(bemrick)

test_check("bemrick")
