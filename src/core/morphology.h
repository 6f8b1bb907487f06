// Binary erosion and dilation by a disk, on words of 64 pixels: the columns of the mask are
// spread by each chord length of the disk once, and the columns under the disk are combined.
// Outside the picture nothing is known, so the frame itself neither erodes nor grows an object.
#pragma once
#include <algorithm>
#include <cmath>
#include <vector>

#include "bits.h"

namespace bm {

// Half chord (in pixels) of an ellipse with half axes rx, ry at each column offset 0 .. floor(rx).
inline std::vector<int> half_chords(double rx, double ry) {
  const double slack = 1e-9;  // a radius given in a length unit must not lose a pixel to rounding
  std::vector<int> chord;
  for (int dx = 0; dx <= static_cast<int>(std::floor(rx + slack)); ++dx) {
    const double share = rx > 0 ? std::min(1.0, dx / rx) : 0;
    chord.push_back(static_cast<int>(std::floor(ry * std::sqrt(1 - share * share) + slack)));
  }
  return chord;
}

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

// Every set pixel spread over `half` pixels up and down its column.
inline BitPlane spread_columns(const BitPlane& in, int half) {
  BitPlane out(in.rows, in.cols);
  const size_t lead = (static_cast<size_t>(half) + 63) / 64;  // room above the picture for the upward spread
  const int length = 2 * half + 1;
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
    shift(window, -half, moved);
    std::copy(moved.begin() + static_cast<ptrdiff_t>(lead), moved.end(), out.col(x));
    if (out.words > 0) out.col(x)[out.words - 1] &= out.last_mask();
  }
  return out;
}

inline BitPlane dilate(const BitPlane& in, double rx, double ry) {
  const std::vector<int> chord = half_chords(rx, ry);
  BitPlane out(in.rows, in.cols);
  for (size_t from = 0; from < chord.size();) {
    size_t to = from;  // offsets from .. to - 1 share one chord length
    while (to < chord.size() && chord[to] == chord[from]) ++to;
    const BitPlane spread = spread_columns(in, chord[from]);
    for (size_t x = 0; x < in.cols; ++x) {
      Word* target = out.col(x);
      auto combine = [&](size_t source) {
        const Word* s = spread.col(source);
        for (size_t k = 0; k < in.words; ++k) target[k] |= s[k];
      };
      for (size_t dx = from; dx < to; ++dx) {
        if (x >= dx) combine(x - dx);
        if (dx > 0 && x + dx < in.cols) combine(x + dx);
      }
    }
    from = to;
  }
  return out;
}

inline BitPlane erode(BitPlane bits, double rx, double ry) {
  complement(bits);
  bits = dilate(bits, rx, ry);
  complement(bits);
  return bits;
}

}  // namespace bm
