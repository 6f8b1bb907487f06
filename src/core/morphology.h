// Binary erosion and dilation by a flat element, on words of 64 pixels: the columns of the mask are
// spread by each vertical extent of the element once, and the columns under the element are combined.
// Outside the picture nothing is known, so the frame itself neither erodes nor grows an object.
#pragma once
#include <algorithm>
#include <cmath>
#include <vector>

#include "bits.h"
#include "element.h"

namespace bm {

inline void complement(BitPlane& bits) {
  for (size_t x = 0; x < bits.cols; ++x) {
    Word* column = bits.col(x);
    for (size_t k = 0; k < bits.words; ++k) column[k] = ~column[k];
    if (bits.words > 0) column[bits.words - 1] &= bits.last_mask();
  }
}

// Bit y of `to` becomes bit y + by of `from`; zeros come in from outside.
inline void shift(const std::vector<Word>& from, ptrdiff_t by, std::vector<Word>& to) {
  const ptrdiff_t n = static_cast<ptrdiff_t>(from.size());
  const ptrdiff_t whole = by >= 0 ? by / 64 : -((-by + 63) / 64);
  const int part = static_cast<int>(by - 64 * whole);
  auto word = [&](ptrdiff_t k) { return k >= 0 && k < n ? from[static_cast<size_t>(k)] : Word{0}; };
  for (ptrdiff_t k = 0; k < n; ++k) {
    to[static_cast<size_t>(k)] = part == 0 ? word(k + whole) : (word(k + whole) >> part) | (word(k + whole + 1) << (64 - part));
  }
}

// Every set pixel spread over its column from `low` to `high` pixels below it.
inline BitPlane spread_columns(const BitPlane& in, int low, int high) {
  BitPlane out(in.rows, in.cols);
  const size_t lead = (static_cast<size_t>(std::max(std::abs(low), std::abs(high))) + 63) / 64;  // room for the spread upward
  const int length = high - low + 1;
  std::vector<Word> window(lead + in.words), moved(lead + in.words);
  for (size_t x = 0; x < in.cols; ++x) {
    std::fill(window.begin(), window.end(), Word{0});
    std::copy(in.col(x), in.col(x) + in.words, window.begin() + static_cast<ptrdiff_t>(lead));
    for (int reach = 1; reach < length;) {  // window[y] covers y .. y + reach - 1, doubled until it is the chord
      const int step = std::min(reach, length - reach);
      shift(window, step, moved);
      for (size_t k = 0; k < window.size(); ++k) window[k] |= moved[k];
      reach += step;
    }
    shift(window, -high, moved);
    std::copy(moved.begin() + static_cast<ptrdiff_t>(lead), moved.end(), out.col(x));
    if (out.words > 0) out.col(x)[out.words - 1] &= out.last_mask();
  }
  return out;
}

inline BitPlane dilate(const BitPlane& in, const std::vector<Chord>& chords) {
  std::vector<size_t> which;
  const std::vector<Extent> extents = extents_of(chords, which);
  BitPlane out(in.rows, in.cols);
  const ptrdiff_t cols = static_cast<ptrdiff_t>(in.cols);
  for (size_t e = 0; e < extents.size(); ++e) {
    const BitPlane spread = spread_columns(in, extents[e].low, extents[e].high);
    std::vector<ptrdiff_t> offsets;
    for (size_t k = 0; k < chords.size(); ++k)
      if (which[k] == e) offsets.push_back(chords[k].dx);
    for (ptrdiff_t x = 0; x < cols; ++x) {
      Word* target = out.col(static_cast<size_t>(x));
      for (ptrdiff_t dx : offsets) {
        if (x - dx < 0 || x - dx >= cols) continue;
        const Word* s = spread.col(static_cast<size_t>(x - dx));
        for (size_t w = 0; w < in.words; ++w) target[w] |= s[w];
      }
    }
  }
  return out;
}

// All our elements are symmetric about their middle, so erosion is the dilation of the background.
inline BitPlane erode(BitPlane bits, const std::vector<Chord>& chords) {
  complement(bits);
  bits = dilate(bits, chords);
  complement(bits);
  return bits;
}

}  // namespace bm
