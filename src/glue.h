// R matrices as planes, and the user's interrupt.
#pragma once
#include "core/common/speed.h"

#include <Rcpp.h>

#include "core/common/element.h"
#include "core/common/large_pages.h"
#include "core/common/plane.h"

inline bm::Plane<const double> plane(const Rcpp::NumericMatrix& m) {
  return {m.begin(), static_cast<std::size_t>(m.nrow()), static_cast<std::size_t>(m.ncol())};
}
inline bm::Plane<const int> plane(const Rcpp::IntegerMatrix& m) {
  return {m.begin(), static_cast<std::size_t>(m.nrow()), static_cast<std::size_t>(m.ncol())};
}
inline bm::Plane<const int> plane(const Rcpp::LogicalMatrix& m) {
  return {m.begin(), static_cast<std::size_t>(m.nrow()), static_cast<std::size_t>(m.ncol())};
}
template <class Matrix>
auto writable(Matrix& m) -> bm::Plane<typename std::remove_reference<decltype(*m.begin())>::type> {
  return {m.begin(), static_cast<std::size_t>(m.nrow()), static_cast<std::size_t>(m.ncol())};
}

// A fresh matrix, not zero-filled.
template <class Matrix>
Matrix fresh(int rows, int cols) {
  Matrix out(Rcpp::no_init(rows, cols));
  bm::use_large_pages(&*out.begin(), static_cast<std::size_t>(out.size()) * sizeof(*out.begin()));
  return out;
}

inline void pause_for_user() { Rcpp::checkUserInterrupt(); }

inline bm::Shape shape_named(const std::string& name) {
  if (name == "square") return bm::Shape::square;
  if (name == "diamond") return bm::Shape::diamond;
  if (name == "line") return bm::Shape::line;
  return bm::Shape::disk;
}
