// Medians of what lies below and above a level, in a part of a picture.
#pragma once
#include <algorithm>
#include <cstddef>
#include <cstdint>
#include <vector>

#include "../common/plane.h"

namespace bm {

// Values of a part: counted where all are whole levels of at most 16 bits, else kept one by one.
class Values {
 public:
  void add(double v) {
    const auto level = static_cast<std::int32_t>(v);
    if (whole_ && v >= 0 && v < 65536 && v == level) {
      if (static_cast<std::size_t>(level) >= counts_.size()) counts_.resize(65536);
      ++counts_[static_cast<std::size_t>(level)];
    } else {
      if (whole_) spread();
      values_.push_back(v);
    }
    ++n_;
  }
  std::size_t size() const { return n_; }
  // The mean of the two middle values for an even number of them.
  double median() {
    const std::size_t half = n_ / 2;
    if (!whole_) {
      std::sort(values_.begin(), values_.end());
      return n_ % 2 ? values_[half] : 0.5 * (values_[half - 1] + values_[half]);
    }
    const double upper = at(half);
    return n_ % 2 ? upper : 0.5 * (at(half - 1) + upper);
  }

 private:
  double at(std::size_t place) const {
    std::size_t level = 0;
    for (std::size_t seen = counts_[0]; seen <= place; seen += counts_[level]) ++level;
    return static_cast<double>(level);
  }
  void spread() {
    whole_ = false;
    for (std::size_t level = 0; level < counts_.size(); ++level) {
      values_.insert(values_.end(), counts_[level], static_cast<double>(level));
    }
  }
  bool whole_ = true;
  std::size_t n_ = 0;
  std::vector<std::uint32_t> counts_ = std::vector<std::uint32_t>(256);
  std::vector<double> values_;
};

struct Middles {
  double share, low, high;  // share of the pixels above the level; medians, where there are both
};

// `outside`: pixels that do not count, or nothing.
inline Middles middles(Plane<const double> pixels, const int* outside, double level,
                       std::size_t top, std::size_t bottom, std::size_t left, std::size_t right) {
  Values low, high;
  for (std::size_t x = left; x < right; ++x) {
    const double* column = pixels.col(x);
    for (std::size_t y = top; y < bottom; ++y) {
      if (outside && outside[x * pixels.rows + y]) continue;
      (column[y] > level ? high : low).add(column[y]);
    }
  }
  const double counted = static_cast<double>(high.size() + low.size());
  Middles found{counted > 0 ? static_cast<double>(high.size()) / counted : 0, 0, 0};
  if (low.size() > 0 && high.size() > 0) {
    found.low = low.median();
    found.high = high.median();
  }
  return found;
}

}  // namespace bm
