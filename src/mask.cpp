#include "glue.h"

#include "core/fill.h"
#include "core/morphology.h"

namespace {
Rcpp::LogicalMatrix as_mask(const bm::BitPlane& bits) {
  Rcpp::LogicalMatrix out(Rcpp::no_init(static_cast<int>(bits.rows), static_cast<int>(bits.cols)));
  bm::unpack(bits, writable(out));
  return out;
}
}  // namespace

// [[Rcpp::export]]
Rcpp::List core_fill(const Rcpp::LogicalMatrix& mask) {
  bm::BitPlane bits = bm::pack(plane(mask));
  const double filled = bm::fill_holes(bits);
  return Rcpp::List::create(Rcpp::Named("mask") = as_mask(bits), Rcpp::Named("filled") = filled);
}

// [[Rcpp::export]]
Rcpp::List core_open(const Rcpp::LogicalMatrix& mask, double rx, double ry) {
  const bm::BitPlane before = bm::pack(plane(mask));
  const bm::BitPlane opened = bm::dilate(bm::erode(before, rx, ry), rx, ry);
  return Rcpp::List::create(Rcpp::Named("mask") = as_mask(opened),
                            Rcpp::Named("removed") = bm::count(before) - bm::count(opened));
}

// [[Rcpp::export]]
Rcpp::LogicalMatrix core_dilate(const Rcpp::LogicalMatrix& mask, double rx, double ry) {
  return as_mask(bm::dilate(bm::pack(plane(mask)), rx, ry));
}
