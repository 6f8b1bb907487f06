// Slope of the grey levels by the Sobel operator (Sobel & Feldman 1968), in levels a pixel, mirrored frame.
#pragma once
#include <cmath>
#include <vector>

#include "parallel.h"
#include "plane.h"
#include "speed.h"

namespace bm {

enum class Slope { magnitude, direction, x, y };

// Differences along x and y at a column, each smoothed 1 2 1 across, from three columns with a row of room at both ends.
BM_CLONES inline void sobel_column(const double* __restrict a, const double* __restrict b, const double* __restrict c,
                                   double scale_y, double* __restrict gx, double* __restrict gy, size_t n) {
  for (size_t i = 0; i < n; ++i) {
    gx[i] = ((c[i] - a[i]) + 2 * (c[i + 1] - a[i + 1]) + (c[i + 2] - a[i + 2])) / 8;
    gy[i] = ((a[i + 2] - a[i]) + 2 * (b[i + 2] - b[i]) + (c[i + 2] - c[i])) / 8 * scale_y;
  }
}
BM_CLONES inline void slope_size(const double* __restrict gx, const double* __restrict gy, double* __restrict to, size_t n) {
  for (size_t i = 0; i < n; ++i) to[i] = std::sqrt(gx[i] * gx[i] + gy[i] * gy[i]);
}

// `scale_y`: width of a pixel over its height, so that slopes along both axes are per the same length.
template <class Interrupt>
void sobel(Plane<const double> in, Plane<double> out, double scale_y, Slope what, int threads, Interrupt interrupt) {
  const size_t n = in.rows + 2;
  over_columns(in.cols, threads, 1, [&](size_t first, size_t last, auto pause) {
    std::vector<double> ring(3 * n), gx(in.rows), gy(in.rows);
    auto slot = [&](ptrdiff_t x) { return &ring[static_cast<size_t>(x + 3) % 3 * n]; };
    auto load = [&](ptrdiff_t x) { load_rows(in.col(reflect(x, in.cols)), in.rows, -1, n, slot(x)); };
    load(static_cast<ptrdiff_t>(first) - 1);
    load(static_cast<ptrdiff_t>(first));
    for (size_t x = first; x < last; ++x) {
      const ptrdiff_t here = static_cast<ptrdiff_t>(x);
      load(here + 1);
      sobel_column(slot(here - 1), slot(here), slot(here + 1), scale_y, gx.data(), gy.data(), in.rows);
      double* to = out.col(x);
      switch (what) {
        case Slope::magnitude: slope_size(gx.data(), gy.data(), to, in.rows); break;
        case Slope::x: std::copy(gx.begin(), gx.end(), to); break;
        case Slope::y: std::copy(gy.begin(), gy.end(), to); break;
        case Slope::direction:  // degrees counter-clockwise as seen: y runs downward
          for (size_t i = 0; i < in.rows; ++i) to[i] = std::atan2(-gy[i], gx[i]) * 57.29577951308232;
      }
      if (x % 256 == 0) pause();
    }
  }, interrupt);
}

}  // namespace bm
