// Median of any window and any values: in a tile the pixels are ranked (ties by position), and the
// rank of the median is found by buckets (`median_buckets.h`). Where a window holds more pixels
// than those can count, it is a set of ranks kept as bits, and the word that holds the median is
// followed from pixel to pixel (the moving median of Huang, Yang & Tang 1979, on ranks instead of
// levels).
#pragma once
#include <cstdint>
#include <cstring>
#include <vector>

#include "median_buckets.h"
#include "../common/plane.h"
#include "../common/speed.h"

namespace bm {

// Bits of a double, ordered as the numbers are.
inline std::uint64_t sortable(double v) {
  std::uint64_t bits;
  v += 0.0;  // -0 becomes +0
  std::memcpy(&bits, &v, sizeof bits);
  return bits >> 63 ? ~bits : bits | (std::uint64_t{1} << 63);
}

// Stable radix sort of item numbers by key, `bytes` low bytes of each key; returns the rank of each
// item.
template <class Key>
void rank_by_key(const std::vector<Key>& key, unsigned bytes, std::vector<std::uint32_t>& rank,
                 std::vector<std::uint32_t>& a, std::vector<std::uint32_t>& b) {
  const std::size_t n = key.size();
  a.resize(n);
  b.resize(n);
  rank.resize(n);
  for (std::size_t i = 0; i < n; ++i) a[i] = static_cast<std::uint32_t>(i);
  for (unsigned byte = 0; byte < bytes; ++byte) {
    std::size_t start[257] = {0};
    for (std::size_t i = 0; i < n; ++i) ++start[((key[i] >> (8 * byte)) & 255) + 1];
    for (int k = 0; k < 256; ++k) start[k + 1] += start[k];
    for (std::size_t i = 0; i < n; ++i) b[start[(key[a[i]] >> (8 * byte)) & 255]++] = a[i];
    a.swap(b);
  }
  for (std::size_t i = 0; i < n; ++i) rank[a[i]] = static_cast<std::uint32_t>(i);
}

class RankWindow {
 public:
  RankWindow(std::size_t ranks, std::size_t middle)
      : words_((ranks + 63) / 64, 0), middle_(middle) {}
  BM_INLINE void clear() {
    std::memset(words_.data(), 0, words_.size() * sizeof words_[0]);
    at_ = 0;
    below_ = 0;
  }
  BM_INLINE void add(std::uint32_t rank) {
    words_[rank >> 6] |= std::uint64_t{1} << (rank & 63);
    below_ += (rank >> 6) < at_;
  }
  BM_INLINE void take(std::uint32_t rank) {
    words_[rank >> 6] &= ~(std::uint64_t{1} << (rank & 63));
    below_ -= (rank >> 6) < at_;
  }
  BM_INLINE std::uint32_t median() {
    while (below_ > middle_) below_ -= ones(words_[--at_]);
    for (std::size_t n; below_ + (n = ones(words_[at_])) <= middle_; ++at_) below_ += n;
    std::uint64_t w = words_[at_];
    for (std::size_t skip = middle_ - below_; skip > 0; --skip) w &= w - 1;
    return static_cast<std::uint32_t>(64 * at_ + static_cast<std::size_t>(__builtin_ctzll(w)));
  }

 private:
  static BM_INLINE std::size_t ones(std::uint64_t w) {
    return static_cast<std::size_t>(__builtin_popcountll(w));
  }
  std::vector<std::uint64_t> words_;
  std::size_t middle_, at_ = 0, below_ = 0;
};

// Ranks of the medians down one column of the tile: h of them, the window nx by ny beginning at
// `ranks`.
BM_CLONES inline void medians_down(RankWindow& window, const std::uint32_t* ranks, std::size_t wide,
                                   std::size_t nx, std::size_t ny, std::size_t h,
                                   std::uint32_t* to) {
  window.clear();
  for (std::size_t i = 0; i < ny; ++i)
    for (std::size_t j = 0; j < nx; ++j) window.add(ranks[i * wide + j]);
  for (std::size_t y = 0;; ++y) {
    to[y] = window.median();
    if (y + 1 == h) return;
    const std::uint32_t *leaving = ranks + y * wide, *entering = ranks + (y + ny) * wide;
    for (std::size_t j = 0; j < nx; ++j) window.take(leaving[j]);
    for (std::size_t j = 0; j < nx; ++j) window.add(entering[j]);
  }
}

// Key is uint16_t for whole levels below 65536, uint64_t (sortable) for any values.
template <class Key, class ToKey, class Interrupt>
void median_rank(Plane<const double> in, Plane<double> out, std::size_t rx, std::size_t ry,
                 ToKey to_key, std::size_t begin, std::size_t end, Interrupt pause) {
  const std::size_t nx = 2 * rx + 1, ny = 2 * ry + 1;
  const std::size_t tile = std::max<std::size_t>(96, 4 * std::max(rx, ry));
  std::vector<Key> key;
  std::vector<double> value;
  std::vector<std::uint32_t> rank, a, b, found(tile);
  BucketMedian buckets;
  for (std::size_t left = begin; left < end; left += tile) {
    for (std::size_t top = 0; top < in.rows; top += tile) {
      const std::size_t w = std::min(tile, end - left), h = std::min(tile, in.rows - top);
      const std::size_t tall = h + 2 * ry, wide = w + 2 * rx;
      key.resize(tall * wide);
      value.resize(tall * wide);
      for (std::size_t j = 0; j < wide;
           ++j) {  // the tile is kept row by row: the window takes in and drops whole rows
        const double* from =
            in.col(reflect(static_cast<ptrdiff_t>(left + j) - static_cast<ptrdiff_t>(rx), in.cols));
        for (std::size_t i = 0; i < tall; ++i) {
          const double v =
              from[reflect(static_cast<ptrdiff_t>(top + i) - static_cast<ptrdiff_t>(ry), in.rows)];
          value[i * wide + j] = v;
          key[i * wide + j] = to_key(v);
        }
      }
      rank_by_key(key, sizeof(Key), rank, a, b);  // leaves in `a` the items in order of rank
      auto keep = [&](std::size_t x, const std::uint32_t* ranks) {
        double* to = out.col(left + x) + top;
        for (std::size_t y = 0; y < h; ++y) to[y] = value[a[ranks[y]]];
        pause();
      };
      if (nx * ny < 65536) {
        buckets.sort_in(rank, a, tall, wide);
        buckets.run(nx, ny, w, h, keep);
        continue;
      }
      RankWindow window(tall * wide, nx * ny / 2);
      for (std::size_t x = 0; x < w; ++x) {
        medians_down(window, &rank[x], wide, nx, ny, h, found.data());
        keep(x, found.data());
      }
    }
  }
}

}  // namespace bm
