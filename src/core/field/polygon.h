// Whether points lie in a polygon: crossings of a ray to the right with its sides are counted
// (even: outside). A whole grid is filled row by row between the crossings.
#pragma once
#include <algorithm>
#include <array>
#include <cstddef>
#include <vector>

namespace bm {

class Polygon {
 public:
  Polygon(const double* x, const double* y, std::size_t corners) : x_(x), y_(y), n_(corners) {}

  // Where a ray at this height meets the sides, from left to right.
  void crossings(double y, std::vector<double>& at) const {
    at.clear();
    for (std::size_t k = 0, j = n_ - 1; k < n_; j = k++)
      if ((y_[k] > y) != (y_[j] > y))
        at.push_back((x_[j] - x_[k]) * (y - y_[k]) / (y_[j] - y_[k]) + x_[k]);
    std::sort(at.begin(), at.end());
  }

  bool holds(double x, double y) const {
    bool odd = false;
    for (std::size_t k = 0, j = n_ - 1; k < n_; j = k++)
      if ((y_[k] > y) != (y_[j] > y) && x < (x_[j] - x_[k]) * (y - y_[k]) / (y_[j] - y_[k]) + x_[k])
        odd = !odd;
    return odd;
  }

 private:
  const double* x_;
  const double* y_;
  std::size_t n_;
};

// Marks the pixels of a grid, column after column, whose centres lie in the polygon. Some rows at
// once, so that what is marked lies together in memory.
inline void fill_polygon(const Polygon& polygon, std::size_t rows, std::size_t cols, int* inside) {
  constexpr std::size_t at_once = 16;
  std::array<std::vector<double>, at_once> meets;
  std::array<std::size_t, at_once> passed;
  for (std::size_t top = 0; top < rows; top += at_once) {
    const std::size_t n = std::min(at_once, rows - top);
    for (std::size_t r = 0; r < n; ++r)
      polygon.crossings(static_cast<double>(top + r) + 0.5, meets[r]);
    passed.fill(0);
    for (std::size_t c = 0; c < cols; ++c) {
      for (std::size_t r = 0; r < n; ++r) {
        const std::vector<double>& at = meets[r];
        while (passed[r] < at.size() && at[passed[r]] <= static_cast<double>(c) + 0.5) ++passed[r];
        inside[c * rows + top + r] = (at.size() - passed[r]) % 2 != 0;
      }
    }
  }
}

}  // namespace bm
