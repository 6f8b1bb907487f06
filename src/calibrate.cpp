#include "glue.h"

#include "core/projection.h"

// [[Rcpp::export]]
Rcpp::List core_project(const Rcpp::NumericMatrix& pixels, double angle, double step) {
  const bm::Projection p = bm::project(plane(pixels), angle, step);
  return Rcpp::List::create(Rcpp::Named("start") = p.start, Rcpp::Named("sum") = p.sum, Rcpp::Named("weight") = p.weight);
}
