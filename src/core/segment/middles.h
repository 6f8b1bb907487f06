// Medians of what lies below and above a level, in tiles of a picture, which may come in parts.
#pragma once
#include <algorithm>
#include <cmath>
#include <cstddef>
#include <cstdint>
#include <vector>

#include "../common/levels.h"
#include "../common/plane.h"

namespace bm {

// Values counted, to the nearest 65536th of the scale; whole levels of 8 bits in as many counters.
class Values {
 public:
  // `steps`: into how many a level is parted where there are values between levels.
  explicit Values(std::size_t steps) : steps_(static_cast<double>(steps)) {}

  void add(double v) {
    if (whole()) {
      const auto level = static_cast<std::int32_t>(v);
      if (v >= 0 && v < 256 && v == level) return add_level(static_cast<std::size_t>(level), 1);
      refine();
    }
    ++counts_[static_cast<std::size_t>(std::nearbyint(std::clamp(v * steps_, 0.0, 65535.0)))];
    ++n_;
  }
  // A whole level of 8 bits so many times.
  void add_level(std::size_t level, std::uint64_t times) {
    counts_[whole() ? level : level * static_cast<std::size_t>(steps_)] += times;
    n_ += times;
  }
  std::size_t size() const { return n_; }
  // Whether there was nothing else yet than whole levels of 8 bits.
  bool whole() const { return counts_.size() == 256; }
  // The mean of the two middle values for an even number of them.
  double median() const {
    const std::size_t half = n_ / 2;
    const double upper = at(half);
    return (n_ % 2 ? upper : 0.5 * (at(half - 1) + upper)) / (whole() ? 1 : steps_);
  }

 private:
  double at(std::size_t place) const {
    std::size_t level = 0;
    for (std::size_t seen = counts_[0]; seen <= place; seen += counts_[level]) ++level;
    return static_cast<double>(level);
  }
  void refine() {
    std::vector<std::uint64_t> fine(65536);
    for (std::size_t level = 0; level < counts_.size(); ++level)
      fine[level * static_cast<std::size_t>(steps_)] = counts_[level];
    counts_.swap(fine);
  }
  double steps_;
  std::size_t n_ = 0;
  std::vector<std::uint64_t> counts_ = std::vector<std::uint64_t>(256);
};

struct Middles {
  double share, low, high;  // share of the pixels above the level; medians, where there are both
};

// Tiles end before the rows and columns given; what lies beyond the last of them does not count.
class TileMiddles {
 public:
  TileMiddles(double level, std::size_t levels, std::vector<int> rows, std::vector<int> cols)
      : level_(level),
        rows_(std::move(rows)),
        cols_(std::move(cols)),
        low_(rows_.size() * cols_.size(), Values(65536 / levels)),
        high_(low_),
        whole_(low_.size() * counters) {}

  // `rows` x `cols` pixels from (skip_rows, skip_cols) on, which lie at (top, left) of the picture.
  // `outside`: pixels that do not count, or nothing.
  void add(Plane<const double> pixels, const int* outside, std::size_t skip_rows,
           std::size_t skip_cols, std::size_t rows, std::size_t cols, std::size_t top,
           std::size_t left) {
    for (std::size_t x = 0; x < cols; ++x) {
      const std::size_t across = tile_of(cols_, left + x);
      if (across == cols_.size()) break;
      const double* column = pixels.col(skip_cols + x) + skip_rows;
      const int* out = outside ? outside + (skip_cols + x) * pixels.rows + skip_rows : nullptr;
      std::size_t down = tile_of(rows_, top);
      for (std::size_t y = 0; y < rows && down < rows_.size();) {
        const std::size_t end = std::min(rows, static_cast<std::size_t>(rows_[down]) - top);
        const std::size_t tile = across * rows_.size() + down;
        // of a tile that was found to hold other values it is not asked again
        const bool whole = !out && low_[tile].whole() && high_[tile].whole();
        if (!whole || !add_whole(column + y, end - y, &whole_[tile * counters])) {
          for (; y < end; ++y)
            if (!out || !out[y]) (column[y] > level_ ? high_ : low_)[tile].add(column[y]);
        }
        y = end;
        ++down;
      }
    }
  }

  // The tiles of the left column first.
  std::vector<Middles> found() const {
    std::vector<Middles> all;
    for (std::size_t k = 0; k < low_.size(); ++k) {
      Values low = low_[k], high = high_[k];
      for (std::size_t i = 0; i < counters; ++i) {
        const std::size_t grey = i % 256;
        (static_cast<double>(grey) > level_ ? high : low).add_level(grey, whole_[k * counters + i]);
      }
      const double counted = static_cast<double>(high.size() + low.size());
      const bool both = low.size() > 0 && high.size() > 0;
      all.push_back({counted > 0 ? static_cast<double>(high.size()) / counted : 0,
                     both ? low.median() : 0, both ? high.median() : 0});
    }
    return all;
  }

 private:
  // A stretch of whole levels of 8 bits, whose side is told by the level; false when it is none.
  // Counted by turns, as neighbours are often equal, and a counter would wait for itself.
  bool add_whole(const double* v, std::size_t n, std::uint64_t* counts) {
    levels_.resize(n);
    if (!whole_levels(v, levels_.data(), n, 255)) return false;
    for (std::size_t i = 0; i < n; ++i)
      ++counts[i % turns * 256 + static_cast<std::size_t>(levels_[i])];
    return true;
  }
  static std::size_t tile_of(const std::vector<int>& ends, std::size_t at) {
    std::size_t k = 0;
    while (k < ends.size() && static_cast<std::size_t>(ends[k]) <= at) ++k;
    return k;
  }
  static constexpr std::size_t turns = 4, counters = turns * 256;
  double level_;
  std::vector<int> rows_, cols_;
  std::vector<Values> low_, high_;
  std::vector<std::uint64_t> whole_;  // `counters` of each tile
  std::vector<std::int32_t> levels_;
};

}  // namespace bm
