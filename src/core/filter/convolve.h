// Correlation with any kernel of odd sides, mirrored frame. Straight from the definition, a column
// at a time.
#pragma once
#include <vector>

#include "../common/parallel.h"
#include "../common/plane.h"
#include "../common/speed.h"

namespace bm {

BM_CLONES inline void add_scaled(const double* __restrict from, double weight,
                                 double* __restrict to, std::size_t n) {
  for (std::size_t i = 0; i < n; ++i) to[i] += weight * from[i];
}

// `kernel` lies as the picture does: rows down, columns to the right, its middle on the pixel.
template <class Interrupt>
void convolve(Plane<const double> in, Plane<double> out, Plane<const double> kernel, int threads,
              Interrupt interrupt) {
  const std::size_t rx = kernel.cols / 2, ry = kernel.rows / 2, n = in.rows + 2 * ry,
                    slots = kernel.cols;
  over_columns(
      in.cols, threads, 1,
      [&](std::size_t first, std::size_t last, auto pause) {
        std::vector<double> ring(slots * n);
        auto slot = [&](ptrdiff_t x) {
          return &ring[static_cast<std::size_t>(x + static_cast<ptrdiff_t>(2 * slots)) % slots * n];
        };
        auto load = [&](ptrdiff_t x) {
          load_rows(in.col(reflect(x, in.cols)), in.rows, -static_cast<ptrdiff_t>(ry), n, slot(x));
        };
        const ptrdiff_t r = static_cast<ptrdiff_t>(rx), start = static_cast<ptrdiff_t>(first);
        for (ptrdiff_t x = start - r; x < start + r; ++x) load(x);
        for (std::size_t x = first; x < last; ++x) {
          const ptrdiff_t here = static_cast<ptrdiff_t>(x);
          load(here + r);
          double* to = out.col(x);
          std::fill(to, to + in.rows, 0.0);
          for (ptrdiff_t k = -r; k <= r; ++k) {
            const double* column = slot(here + k);
            const double* weight = kernel.col(static_cast<std::size_t>(k + r));
            for (std::size_t j = 0; j < kernel.rows; ++j)
              if (weight[j] != 0) add_scaled(column + j, weight[j], to, in.rows);
          }
          pause();
        }
      },
      interrupt);
}

}  // namespace bm
