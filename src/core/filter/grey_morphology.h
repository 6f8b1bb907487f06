// Grey erosion (minimum) and dilation (maximum) under a flat element: minima over every vertical
// extent of the element are made once a column by doubling, and the columns under the element
// combined. What lies beyond the frame is unknown and counts for nothing.
#pragma once
#include <cstdint>
#include <limits>
#include <vector>

#include "../common/element.h"
#include "../common/levels.h"
#include "../common/parallel.h"
#include "../common/plane.h"
#include "../common/speed.h"

namespace bm {

template <class T, bool Lowest>
BM_INLINE T extreme(T a, T b) {
  return Lowest ? (a < b ? a : b) : (a > b ? a : b);
}

template <class T, bool Lowest>
BM_CLONES void combine(const T* from, T* to, std::size_t n) {
  for (std::size_t i = 0; i < n; ++i) to[i] = extreme<T, Lowest>(to[i], from[i]);
}

// to[i] = extreme of from[i] and from[i + step]
template <class T, bool Lowest>
BM_CLONES void double_window(const T* __restrict from, std::size_t step, T* __restrict to,
                             std::size_t n) {
  for (std::size_t i = 0; i < n; ++i) to[i] = extreme<T, Lowest>(from[i], from[i + step]);
}

// Windows of `length` values that begin at each place, from the values themselves; `a` and `b` are
// room to work in. Returns where they are; n values of it are valid.
template <class T, bool Lowest>
const T* windows(const T* values, std::size_t length, std::size_t n, std::vector<T>& a,
                 std::vector<T>& b) {
  if (length == 1) return values;
  const T* now = values;
  std::size_t reach = 1;
  std::vector<T>* next = &a;
  std::vector<T>* other = &b;
  while (reach < length) {
    const std::size_t step = std::min(reach, length - reach);
    double_window<T, Lowest>(now, step, next->data(), n + (length - reach - step));
    now = next->data();
    std::swap(next, other);
    reach += step;
  }
  return now;
}

template <class T, bool Lowest, class Interrupt>
void grey_extreme(Plane<const double> in, Plane<double> out, const std::vector<Chord>& chords,
                  int threads, Interrupt interrupt) {
  std::vector<std::size_t> which;
  const std::vector<Extent> extents = extents_of(chords, which);
  const ptrdiff_t left = -chords.front().dx, right = chords.back().dx;
  std::size_t above = 0, below = 0;
  for (const Extent& e : extents) {
    above = std::max(above, static_cast<std::size_t>(std::max(0, -e.low)));
    below = std::max(below, static_cast<std::size_t>(std::max(0, e.high)));
  }
  const T none = Lowest ? std::numeric_limits<T>::max() : std::numeric_limits<T>::lowest();
  const std::size_t slots = static_cast<std::size_t>(left + right) + 1, rows = in.rows,
                    span = above + rows + below;
  over_columns(
      in.cols, threads, 1,
      [&](std::size_t first, std::size_t last, auto pause) {
        std::vector<T> padded(span, none), a(span), b(span), result(rows),
            ring(slots * extents.size() * rows);
        auto slot = [&](ptrdiff_t x, std::size_t e) {
          return &ring[(static_cast<std::size_t>(x + static_cast<ptrdiff_t>(slots)) % slots *
                            extents.size() +
                        e) *
                       rows];
        };
        const ptrdiff_t cols = static_cast<ptrdiff_t>(in.cols);
        auto load = [&](ptrdiff_t x) {
          if (x < 0 || x >= cols) return;
          const double* from = in.col(static_cast<std::size_t>(x));
          convert(from, padded.data() + above, rows);
          for (std::size_t e = 0; e < extents.size(); ++e) {
            const std::size_t length =
                static_cast<std::size_t>(extents[e].high - extents[e].low) + 1;
            const std::size_t begin =
                static_cast<std::size_t>(static_cast<ptrdiff_t>(above) + extents[e].low);
            const T* w = windows<T, Lowest>(padded.data() + begin, length, rows, a, b);
            std::copy(w, w + rows, slot(x, e));
          }
        };
        const ptrdiff_t start = static_cast<ptrdiff_t>(first);
        for (ptrdiff_t x = start - left; x < start + right; ++x) load(x);
        for (std::size_t x = first; x < last; ++x) {
          const ptrdiff_t here = static_cast<ptrdiff_t>(x);
          load(here + right);
          std::fill(result.begin(), result.end(), none);
          for (std::size_t k = 0; k < chords.size(); ++k) {
            const ptrdiff_t at = here + chords[k].dx;
            if (at >= 0 && at < cols) combine<T, Lowest>(slot(at, which[k]), result.data(), rows);
          }
          double* to = out.col(x);
          for (std::size_t i = 0; i < rows; ++i) to[i] = static_cast<double>(result[i]);
          if (x % 8 == 0) pause();
        }
      },
      interrupt);
}

template <bool Lowest, class Interrupt>
void grey_extreme(Plane<const double> in, Plane<double> out, const std::vector<Chord>& chords,
                  int threads, Interrupt interrupt) {
  switch (levels_of(in, threads)) {
    case Levels::bits8:
      return grey_extreme<std::uint8_t, Lowest>(in, out, chords, threads, interrupt);
    case Levels::bits16:
      return grey_extreme<std::uint16_t, Lowest>(in, out, chords, threads, interrupt);
    default:
      return grey_extreme<double, Lowest>(in, out, chords, threads, interrupt);
  }
}

}  // namespace bm
