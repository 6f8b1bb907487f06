// Outlines back to pixels: which pixels the rings of each object go round.
#pragma once
#include <algorithm>
#include <cmath>
#include <cstddef>
#include <utility>
#include <vector>

#include "../common/plane.h"

namespace bm {

// Where rows of pixel centres cross the rings of one object.
class Crossings {
 public:
  explicit Crossings(std::ptrdiff_t rows) : rows_(rows) {}

  // One ring by its corners, the last joined to the first.
  void add(const double* x, const double* y, std::size_t corners) {
    for (std::size_t k = 0; k < corners; ++k) {
      const std::size_t next = k + 1 < corners ? k + 1 : 0;
      add_side(x[k], y[k], x[next], y[next]);
    }
  }

  // Sets the pixels between the odd and the even crossings of each row, and forgets the rings.
  void fill(Plane<int> labels, int id) {
    std::sort(found_.begin(), found_.end());
    const auto cols = static_cast<std::ptrdiff_t>(labels.cols);
    for (std::size_t k = 0; k + 1 < found_.size(); k += 2) {
      const std::ptrdiff_t row = found_[k].first;
      const std::ptrdiff_t from = first_centre(found_[k].second, cols);
      const std::ptrdiff_t to = first_centre(found_[k + 1].second, cols);
      for (std::ptrdiff_t col = from; col < to; ++col)
        labels.col(static_cast<std::size_t>(col))[row] = id;
    }
    found_.clear();
  }

 private:
  // A row belongs to a side from its upper end to before its lower one, so that a corner counts
  // once and every row has an even number of crossings.
  void add_side(double x0, double y0, double x1, double y1) {
    if (y0 > y1) {
      std::swap(x0, x1);
      std::swap(y0, y1);
    }
    const std::ptrdiff_t end = first_centre(y1, rows_);
    for (std::ptrdiff_t row = first_centre(y0, rows_); row < end; ++row) {
      const double share = (static_cast<double>(row) + 0.5 - y0) / (y1 - y0);
      found_.emplace_back(row, x0 + share * (x1 - x0));
    }
  }

  // The first of `count` pixels whose centre does not lie before `at`.
  static std::ptrdiff_t first_centre(double at, std::ptrdiff_t count) {
    const double centre = std::ceil(at - 0.5);
    if (centre <= 0) return 0;
    return centre >= static_cast<double>(count) ? count : static_cast<std::ptrdiff_t>(centre);
  }

  std::ptrdiff_t rows_;
  std::vector<std::pair<std::ptrdiff_t, double>> found_;
};

}  // namespace bm
