library(testthat)
library(longladder)

test_check("longladder")
