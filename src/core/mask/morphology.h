// Binary erosion and dilation by a flat element, on words of 64 pixels: the columns of the mask are
// spread by each vertical extent of the element once, and the columns under the element are
// combined. Outside the picture nothing is known, so the frame itself neither erodes nor grows an
// object.
#pragma once
#include <algorithm>
#include <cmath>
#include <vector>

#include "../common/bits.h"
#include "../common/element.h"
#include "../common/parallel.h"
#include "../common/speed.h"

namespace bm {

inline void complement(BitPlane& bits) {
  for (std::size_t x = 0; x < bits.cols; ++x) {
    Word* column = bits.col(x);
    for (std::size_t k = 0; k < bits.words; ++k) column[k] = ~column[k];
    if (bits.words > 0) column[bits.words - 1] &= bits.last_mask();
  }
}

// Bit y of `to` becomes bit y + by of `from`, for n words; words on both sides of `from` are read
// where by reaches them.
BM_CLONES inline void shift(const Word* __restrict from, ptrdiff_t by, Word* __restrict to,
                            std::size_t n) {
  const ptrdiff_t whole = by >= 0 ? by / 64 : -((-by + 63) / 64);
  const int part = static_cast<int>(by - 64 * whole);
  from += whole;
  if (part == 0) {
    std::copy(from, from + n, to);
  } else {
    for (std::size_t k = 0; k < n; ++k) to[k] = (from[k] >> part) | (from[k + 1] << (64 - part));
  }
}
BM_CLONES inline void unite(const Word* __restrict from, Word* __restrict to, std::size_t n) {
  for (std::size_t k = 0; k < n; ++k) to[k] |= from[k];
}

// Every set pixel spread over its column from `low` to `high` pixels below it.
inline BitPlane spread_columns(const BitPlane& in, int low, int high, int threads) {
  BitPlane out(in.rows, in.cols);
  const std::size_t lead =
      (static_cast<std::size_t>(std::max(std::abs(low), std::abs(high))) + 63) / 64 +
      1;  // room for the spread upward
  const std::size_t used = lead + in.words;
  const int length = high - low + 1;
  over_columns(
      in.cols, threads, 1,
      [&](std::size_t first, std::size_t last, auto) {
        std::vector<Word> window(used + lead + 1, 0),
            moved(used);  // words behind the picture stay clear
        for (std::size_t x = first; x < last; ++x) {
          std::fill(window.begin(), window.begin() + static_cast<ptrdiff_t>(lead), Word{0});
          std::copy(in.col(x), in.col(x) + in.words, window.begin() + static_cast<ptrdiff_t>(lead));
          for (int reach = 1;
               reach <
               length;) {  // window[y] covers y .. y + reach - 1, doubled until it is the chord
            const int step = std::min(reach, length - reach);
            shift(window.data(), step, moved.data(), used);
            unite(moved.data(), window.data(), used);
            reach += step;
          }
          shift(window.data() + lead, -high, out.col(x), in.words);
          if (out.words > 0) out.col(x)[out.words - 1] &= out.last_mask();
        }
      },
      [] {});
  return out;
}

inline BitPlane dilate(const BitPlane& in, const std::vector<Chord>& chords, int threads = 1) {
  std::vector<std::size_t> which;
  const std::vector<Extent> extents = extents_of(chords, which);
  BitPlane out(in.rows, in.cols);
  const ptrdiff_t cols = static_cast<ptrdiff_t>(in.cols);
  for (std::size_t e = 0; e < extents.size(); ++e) {
    const BitPlane spread = spread_columns(in, extents[e].low, extents[e].high, threads);
    std::vector<ptrdiff_t> offsets;
    for (std::size_t k = 0; k < chords.size(); ++k)
      if (which[k] == e) offsets.push_back(chords[k].dx);
    over_columns(
        in.cols, threads, 1,
        [&](std::size_t first, std::size_t last, auto) {
          for (ptrdiff_t x = static_cast<ptrdiff_t>(first); x < static_cast<ptrdiff_t>(last); ++x) {
            Word* target = out.col(static_cast<std::size_t>(x));
            for (ptrdiff_t dx : offsets) {
              if (x - dx < 0 || x - dx >= cols) continue;
              unite(spread.col(static_cast<std::size_t>(x - dx)), target, in.words);
            }
          }
        },
        [] {});
  }
  return out;
}

// All our elements are symmetric about their middle, so erosion is the dilation of the background.
inline BitPlane erode(BitPlane bits, const std::vector<Chord>& chords, int threads = 1) {
  complement(bits);
  bits = dilate(bits, chords, threads);
  complement(bits);
  return bits;
}

}  // namespace bm
