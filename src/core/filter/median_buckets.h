// The median's rank in a tile, in nearly constant time: ranks are put into at most 256 buckets, the
// bucket of the median comes from histograms as for 8-bit values (`median_histogram.h`), and its
// place there from the bucket's pixels in order of rank, of which those inside the window are
// counted, sixteen at a time.
#pragma once
#include <cstdint>
#include <vector>

#include "median_histogram.h"
#include "../common/speed.h"

namespace bm {

// The k-th of a bucket's pixels, in order of rank from 0, that lies in the window from (left, top);
// x and y are whole lanes.
BM_INLINE unsigned nth_inside(const std::uint16_t* x, const std::uint16_t* y, unsigned left,
                              unsigned nx, unsigned top, unsigned ny, unsigned k) {
  for (unsigned from = 0;; from += 16) {
    Counts across, down;
    std::memcpy(&across, x + from, sizeof across);
    std::memcpy(&down, y + from, sizeof down);
    across -= static_cast<std::uint16_t>(left);
    down -= static_cast<std::uint16_t>(top);
    unsigned inside = lane_bits((Counts)(across < static_cast<std::uint16_t>(nx)) &
                                (Counts)(down < static_cast<std::uint16_t>(ny)));
    const unsigned n = static_cast<unsigned>(__builtin_popcount(inside));
    if (k >= n) {
      k -= n;
      continue;
    }
    for (; k > 0; --k) inside &= inside - 1;
    return from + static_cast<unsigned>(__builtin_ctz(inside));
  }
}

class BucketMedian {
 public:
  // Ranks of a tile kept row by row, `wide` in a row; `order` holds its pixels by rank.
  void sort_in(const std::vector<std::uint32_t>& rank, const std::vector<std::uint32_t>& order,
               std::size_t tall, std::size_t wide) {
    tall_ = tall;
    shift_ = 4;
    while (((rank.size() - 1) >> shift_) > 255) ++shift_;
    bucket_.resize(rank.size());
    for (std::size_t j = 0; j < wide; ++j)
      for (std::size_t i = 0; i < tall; ++i)
        bucket_[j * tall + i] = static_cast<std::uint8_t>(rank[i * wide + j] >> shift_);
    const std::size_t room = (((rank.size() - 1) >> shift_) + 1) << shift_;
    x_.assign(room, UINT16_MAX);
    y_.assign(room, UINT16_MAX);
    for (std::size_t r = 0; r < order.size(); ++r) {
      x_[r] = static_cast<std::uint16_t>(order[r] % wide);
      y_[r] = static_cast<std::uint16_t>(order[r] / wide);
    }
  }

  // each(x, ranks) for the columns of windows from 0 on: the ranks of h medians.
  template <class Each>
  void run(std::size_t nx, std::size_t ny, std::size_t w, std::size_t h, Each each) {
    rows_.resize(std::max(rows_.size(), tall_));
    found_.resize(h);
    start_rows(rows_, tall_, nx);
    const std::vector<std::uint8_t> nothing(tall_, 0);
    for (std::size_t j = 0; j + 1 < nx; ++j)
      exchange(rows_.data(), nothing.data(), column(j), tall_, steps());
    for (std::size_t x = 0; x < w; ++x) {
      exchange(rows_.data(), x > 0 ? column(x - 1) : nothing.data(), column(x + nx - 1), tall_,
               steps());
      std::uint32_t* to = found_.data();
      const std::uint16_t *across = x_.data(), *down = y_.data();
      const unsigned left = static_cast<unsigned>(x), shift = shift_, n = static_cast<unsigned>(nx),
                     m = static_cast<unsigned>(ny);
      scan_medians(rows_.data(), ny, static_cast<std::uint16_t>(nx * ny / 2), h,
                   [=](std::size_t y, unsigned bucket, unsigned rest) {
                     const std::uint32_t first = bucket << shift;
                     to[y] = first + nth_inside(across + first, down + first, left, n,
                                                static_cast<unsigned>(y), m, rest);
                   });
      each(x, to);
    }
  }

 private:
  const std::uint8_t* column(std::size_t j) const { return &bucket_[j * tall_]; }
  std::size_t tall_ = 0;
  unsigned shift_ = 4;
  std::vector<std::uint8_t> bucket_;
  std::vector<std::uint16_t> x_, y_;
  std::vector<RowHistogram> rows_;
  std::vector<std::uint32_t> found_;
};

}  // namespace bm
