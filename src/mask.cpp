#include "glue.h"

#include "core/fill.h"
#include "core/morphology.h"
#include "core/skeleton.h"

namespace {
Rcpp::LogicalMatrix as_mask(const bm::BitPlane& bits) {
  Rcpp::LogicalMatrix out = fresh<Rcpp::LogicalMatrix>(static_cast<int>(bits.rows), static_cast<int>(bits.cols));
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

// `how`: erode, dilate, open, close; `shape`: disk, square, diamond, line with half axes (or end) rx, ry.
// [[Rcpp::export]]
Rcpp::LogicalMatrix core_morph(const Rcpp::LogicalMatrix& mask, const std::string& how, const std::string& shape, double rx,
                               double ry) {
  const std::vector<bm::Chord> chords = bm::element(shape_named(shape), rx, ry);
  const bm::BitPlane bits = bm::pack(plane(mask));
  if (how == "erode") return as_mask(bm::erode(bits, chords));
  if (how == "dilate") return as_mask(bm::dilate(bits, chords));
  if (how == "open") return as_mask(bm::dilate(bm::erode(bits, chords), chords));
  return as_mask(bm::erode(bm::dilate(bits, chords), chords));
}

// [[Rcpp::export]]
Rcpp::LogicalMatrix core_skeleton(const Rcpp::LogicalMatrix& mask) {
  Rcpp::LogicalMatrix out = fresh<Rcpp::LogicalMatrix>(mask.nrow(), mask.ncol());
  bm::skeleton(plane(mask), writable(out));
  return out;
}

// Number of TRUE pixels; R's own sum takes four times as long.
// [[Rcpp::export]]
double core_count(const Rcpp::LogicalMatrix& mask) {
  const int* v = mask.begin();
  double n = 0;
  const R_xlen_t size = mask.size(), block = 1 << 20;
  for (R_xlen_t from = 0; from < size; from += block) {
    int part = 0;
    for (R_xlen_t i = from; i < std::min(size, from + block); ++i) part += v[i] == 1;
    n += part;
  }
  return n;
}
