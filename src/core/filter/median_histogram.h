// Median of 8-bit values in constant time per pixel, after Perreault & Hebert (2007),
// "Median filtering in constant time", IEEE Trans. Image Processing 16, 2389-2394:
// one histogram per row of the window, summed over the window's rows, in two levels (16 x 16).
// Counts are kept cumulative, so that the median's place is found by comparing 16 lanes at once.
#pragma once
#include <cstdint>
#include <cstring>
#include <vector>
#ifdef __SSE2__
#include <emmintrin.h>
#endif

#include "../common/plane.h"
#include "../common/speed.h"

namespace bm {

// Loosely aligned: memory from the heap is not aligned to 32 bytes.
typedef std::uint16_t Counts __attribute__((vector_size(32), aligned(2)));

struct RowHistogram {
  Counts coarse;    // lane s: pixels below 16 (s + 1)
  Counts fine[16];  // segment s, lane k: pixels from 16 s to 16 s + k
};

// Lanes s .. 15 set to one.
inline const Counts* steps() {
  static Counts table[16];
  static const bool ready = [] {
    for (int s = 0; s < 16; ++s)
      for (int k = 0; k < 16; ++k) table[s][k] = k >= s;
    return true;
  }();
  (void)ready;
  return table;
}

// Lane i, all ones or all zeros, gives bit i.
BM_INLINE unsigned lane_bits(const Counts& lanes) {
#ifdef __SSE2__
  __m128i half[2];
  std::memcpy(half, &lanes, sizeof lanes);
  return static_cast<unsigned>(_mm_movemask_epi8(_mm_packs_epi16(half[0], half[1])));
#else
  const Counts bit =
      Counts{1, 2, 4, 8, 16, 32, 64, 128, 256, 512, 1024, 2048, 4096, 8192, 16384, 32768} & lanes;
  std::uint64_t part[4];
  std::memcpy(part, &bit, sizeof part);
  std::uint64_t all = part[0] | part[1] | part[2] | part[3];
  all |= all >> 32;
  all |= all >> 16;
  return static_cast<unsigned>(all & 0xffff);
#endif
}

// The place of the first of the growing lanes above `limit`; `below` becomes the lane before it, 0
// before the first.
BM_INLINE unsigned first_above(const Counts& c, std::uint16_t limit, std::uint16_t& below) {
  std::uint16_t lane[17];
  lane[0] = 0;
  std::memcpy(lane + 1, &c, sizeof c);
  const unsigned n = static_cast<unsigned>(__builtin_ctz(~lane_bits((Counts)(c <= limit))));
  below = lane[n];
  return n;
}

// Takes the pixels of one column out of the row histograms and the pixels of another in.
BM_CLONES inline void exchange(RowHistogram* rows, const std::uint8_t* leaving,
                               const std::uint8_t* entering, std::size_t n, const Counts* step) {
  for (std::size_t i = 0; i < n; ++i) {
    rows[i].coarse -= step[leaving[i] >> 4];
    rows[i].fine[leaving[i] >> 4] -= step[leaving[i] & 15];
    rows[i].coarse += step[entering[i] >> 4];
    rows[i].fine[entering[i] >> 4] += step[entering[i] & 15];
  }
}

// The row histograms of windows of `count` columns, all zeros as yet, which are then exchanged for
// those of the picture.
inline void start_rows(std::vector<RowHistogram>& rows, std::size_t n, std::size_t count) {
  for (std::size_t i = 0; i < n; ++i) {
    rows[i] = RowHistogram{};
    rows[i].coarse = rows[i].fine[0] = Counts{} + static_cast<std::uint16_t>(count);
  }
}

// Medians down one column; rows[y] .. rows[y + ny - 1] make the window of row y. The window's fine
// segment s is brought up to date only when the median falls into it: it then holds the rows from
// seen[s]. give(y, level, rest): the median has `rest` pixels of its own level before it.
template <class Give>
BM_CLONES void scan_medians(const RowHistogram* rows, std::size_t ny, std::uint16_t middle,
                            std::size_t height, Give give) {
  Counts coarse{}, fine[16];
  std::size_t seen[16];
  for (int s = 0; s < 16; ++s) seen[s] = SIZE_MAX;
  for (std::size_t i = 0; i + 1 < ny; ++i) coarse += rows[i].coarse;
  for (std::size_t y = 0; y < height; ++y) {
    coarse += rows[y + ny - 1].coarse;
    std::uint16_t below, before;
    const unsigned s = first_above(coarse, middle, below);
    if (seen[s] == SIZE_MAX || 2 * (y - seen[s]) > ny) {
      fine[s] = Counts{};
      for (std::size_t i = y; i < y + ny; ++i) fine[s] += rows[i].fine[s];
    } else {
      for (std::size_t i = seen[s]; i < y; ++i) fine[s] += rows[i + ny].fine[s] - rows[i].fine[s];
    }
    seen[s] = y;
    const std::uint16_t rest = static_cast<std::uint16_t>(middle - below);
    const unsigned k = first_above(fine[s], rest, before);
    give(y, 16 * s + k, static_cast<unsigned>(rest - before));
    coarse -= rows[y].coarse;
  }
}

// Window of (2 rx + 1) x (2 ry + 1) with fewer than 65536 pixels.
template <class Interrupt>
void median_histogram(Plane<const double> in, Plane<double> out, std::size_t rx, std::size_t ry,
                      std::size_t left, std::size_t right, Interrupt pause) {
  const std::size_t strip = 512, ny = 2 * ry + 1;
  const ptrdiff_t half = static_cast<ptrdiff_t>(rx);
  const std::uint16_t middle = static_cast<std::uint16_t>((2 * rx + 1) * ny / 2);
  const std::size_t most = std::min(strip, in.rows) + 2 * ry;
  std::vector<RowHistogram> rows(most);
  std::vector<std::uint8_t> leaving(most), entering(most);
  for (std::size_t top = 0; top < in.rows; top += strip) {
    const std::size_t height = std::min(strip, in.rows - top), n = height + 2 * ry;
    auto load = [&](ptrdiff_t x, std::vector<std::uint8_t>& to) {
      const double* from = in.col(reflect(x, in.cols));
      const ptrdiff_t first = static_cast<ptrdiff_t>(top) - static_cast<ptrdiff_t>(ry);
      load_rows(from, in.rows, first, n, to.data());
    };
    start_rows(rows, n, 2 * rx + 1);
    std::fill(leaving.begin(), leaving.end(), std::uint8_t{0});
    for (ptrdiff_t x = -half; x < half; ++x) {
      load(static_cast<ptrdiff_t>(left) + x, entering);
      exchange(rows.data(), leaving.data(), entering.data(), n, steps());
    }
    for (std::size_t x = left; x < right; ++x) {
      if (x > left) load(static_cast<ptrdiff_t>(x) - half - 1, leaving);
      load(static_cast<ptrdiff_t>(x) + half, entering);
      exchange(rows.data(), leaving.data(), entering.data(), n, steps());
      double* to = out.col(x) + top;
      scan_medians(rows.data(), ny, middle, height,
                   [to](std::size_t y, unsigned level, unsigned) { to[y] = level; });
      if (x % 8 == 0) pause();
    }
  }
}

}  // namespace bm
