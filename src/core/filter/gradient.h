// Slope of the grey levels by the Sobel operator (Sobel & Feldman 1968), in levels per pixel,
// mirrored frame.
#pragma once
#include <cmath>

#include "../common/parallel.h"
#include "../common/plane.h"
#include "../common/speed.h"

namespace bm {

enum class Slope { magnitude, direction, x, y };

// Rows i - 1, i, i + 1 of three columns lie at a[i], a[i + 1], a[i + 2] and so on.
struct Slopes {
  const double *a, *b, *c;
  double scale_y;
  BM_INLINE double x(std::size_t i) const {
    return ((c[i] - a[i]) + 2 * (c[i + 1] - a[i + 1]) + (c[i + 2] - a[i + 2])) * 0.125;
  }
  BM_INLINE double y(std::size_t i) const {
    return ((a[i + 2] - a[i]) + 2 * (b[i + 2] - b[i]) + (c[i + 2] - c[i])) * 0.125 * scale_y;
  }
};

BM_CLONES inline void slope_sizes(Slopes s, double* __restrict to, std::size_t n) {
  for (std::size_t i = 0; i < n; ++i) {
    const double x = s.x(i), y = s.y(i);
    to[i] = std::sqrt(x * x + y * y);
  }
}

inline void slope_column(Slopes s, Slope what, double* to, std::size_t n) {
  switch (what) {
    case Slope::magnitude:
      return slope_sizes(s, to, n);
    case Slope::x:
      for (std::size_t i = 0; i < n; ++i) to[i] = s.x(i);
      return;
    case Slope::y:
      for (std::size_t i = 0; i < n; ++i) to[i] = s.y(i);
      return;
    case Slope::direction:  // degrees counter-clockwise as seen: y runs downward
      for (std::size_t i = 0; i < n; ++i) to[i] = std::atan2(-s.y(i), s.x(i)) * 57.29577951308232;
  }
}

// `scale_y`: width of a pixel over its height, so that slopes along both axes are per the same
// length. Rows within the picture are read where they lie; only the first and last see mirrored
// neighbours.
template <class Interrupt>
void sobel(Plane<const double> in, Plane<double> out, double scale_y, Slope what, int threads,
           Interrupt interrupt) {
  over_columns(
      in.cols, threads, 1,
      [&](std::size_t first, std::size_t last, auto pause) {
        for (std::size_t x = first; x < last; ++x) {
          const ptrdiff_t here = static_cast<ptrdiff_t>(x);
          const double* column[3];
          for (ptrdiff_t k = -1; k <= 1; ++k) column[k + 1] = in.col(reflect(here + k, in.cols));
          double* to = out.col(x);
          if (in.rows > 2)
            slope_column({column[0], column[1], column[2], scale_y}, what, to + 1, in.rows - 2);
          for (std::size_t y : {std::size_t{0}, in.rows - 1}) {
            double near[3][3];
            for (int k = 0; k < 3; ++k)
              load_rows(column[k], in.rows, static_cast<ptrdiff_t>(y) - 1, 3, near[k]);
            slope_column({near[0], near[1], near[2], scale_y}, what, to + y, 1);
          }
          if (x % 256 == 0) pause();
        }
      },
      interrupt);
}

}  // namespace bm
