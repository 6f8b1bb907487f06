#include "glue.h"

#include "core/calibration/projection.h"
#include "core/calibration/rectify.h"

// [[Rcpp::export]]
Rcpp::List core_project(const Rcpp::NumericMatrix& pixels, double angle, double step) {
  const bm::Projection p = bm::project(plane(pixels), angle, step);
  return Rcpp::List::create(Rcpp::Named("start") = p.start, Rcpp::Named("sum") = p.sum,
                            Rcpp::Named("weight") = p.weight);
}

// `lens`: centre x and y in this picture's pixels, reach, bend; `frame`: left, top and pixel size
// of the result in the plane.
// [[Rcpp::export]]
Rcpp::NumericMatrix core_rectify(const Rcpp::NumericMatrix& pixels, const Rcpp::NumericMatrix& back,
                                 const Rcpp::NumericVector& lens, const Rcpp::NumericVector& frame,
                                 int rows, int cols) {
  Rcpp::NumericMatrix out = fresh<Rcpp::NumericMatrix>(rows, cols);
  const bm::PlaneView view{back.begin(), lens[0], lens[1], lens[2], lens[3]};
  bm::rectify(plane(pixels), writable(out), view, frame[0], frame[1], frame[2]);
  return out;
}
