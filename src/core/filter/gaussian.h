// Gaussian smoothing: separable, sampled kernel cut at 4 sigma and normalised,
// reflecting frame, computed in single precision (relative error below 1e-6).
#pragma once
#include <cmath>
#include <vector>

#include "../common/parallel.h"
#include "../common/plane.h"
#include "../common/speed.h"

namespace bm {

// Weights 0 .. radius of one half of the kernel; the whole sums to one.
inline std::vector<float> gaussian_weights(double sigma) {
  const std::size_t radius = sigma > 0 ? static_cast<std::size_t>(std::ceil(4 * sigma)) : 0;
  std::vector<double> w(radius + 1, 1.0);
  double sum = 1;
  for (std::size_t k = 1; k <= radius; ++k) {
    w[k] = std::exp(-0.5 * static_cast<double>(k * k) / (sigma * sigma));
    sum += 2 * w[k];
  }
  std::vector<float> half(radius + 1);
  for (std::size_t k = 0; k <= radius; ++k) half[k] = static_cast<float>(w[k] / sum);
  return half;
}

BM_CLONES inline void scale_row(const float* __restrict a, float w, float* __restrict to,
                                std::size_t n) {
  for (std::size_t i = 0; i < n; ++i) to[i] = w * a[i];
}

BM_CLONES inline void add_pair(const float* a, const float* b, float w, float* __restrict to,
                               std::size_t n) {
  for (std::size_t i = 0; i < n; ++i) to[i] += w * (a[i] + b[i]);
}

BM_CLONES inline void add_two_pairs(const float* a, const float* b, float w, const float* c,
                                    const float* d, float v, float* __restrict to, std::size_t n) {
  for (std::size_t i = 0; i < n; ++i) to[i] += w * (a[i] + b[i]) + v * (c[i] + d[i]);
}

// to = sum over k of w[k] * (row at -k + row at +k), rows given by a function of the offset.
template <class RowAt>
void convolve_rows(const std::vector<float>& w, RowAt row, float* to, std::size_t n) {
  scale_row(row(0), w[0], to, n);
  const ptrdiff_t radius = static_cast<ptrdiff_t>(w.size()) - 1;
  ptrdiff_t k = 1;
  for (; k < radius; k += 2) {
    add_two_pairs(row(-k), row(k), w[k], row(-k - 1), row(k + 1), w[k + 1], to, n);
  }
  if (k == radius) add_pair(row(-k), row(k), w[k], to, n);
}

// Strips of rows are taken one after the other so that the columns under the kernel stay in the
// cache.
template <class Interrupt>
void gaussian(Plane<const double> in, Plane<double> out, double sigma_x, double sigma_y,
              int threads, Interrupt interrupt) {
  const std::vector<float> wx = gaussian_weights(sigma_x), wy = gaussian_weights(sigma_y);
  const std::size_t rx = wx.size() - 1, ry = wy.size() - 1, strip = 1024;
  const std::size_t slots = 2 * rx + 1, span = std::min(strip, in.rows) + 2 * ry;
  over_columns(
      in.cols, threads, 1,
      [&](std::size_t left, std::size_t right, auto pause) {
        std::vector<float> ring(slots * span), across(span), smooth(span);
        for (std::size_t top = 0; top < in.rows; top += strip) {
          const std::size_t height = std::min(strip, in.rows - top), n = height + 2 * ry;
          const ptrdiff_t first = static_cast<ptrdiff_t>(top) - static_cast<ptrdiff_t>(ry),
                          begin = static_cast<ptrdiff_t>(left);
          auto load = [&](ptrdiff_t x) {
            const double* from = in.col(reflect(x, in.cols));
            float* to =
                &ring[static_cast<std::size_t>(x + static_cast<ptrdiff_t>(rx)) % slots * span];
            load_rows(from, in.rows, first, n, to);
          };
          for (std::size_t k = 0; k + 1 < slots; ++k)
            load(begin + static_cast<ptrdiff_t>(k) - static_cast<ptrdiff_t>(rx));
          for (std::size_t x = left; x < right; ++x) {
            load(static_cast<ptrdiff_t>(x + rx));
            auto column = [&](ptrdiff_t k) {
              return &ring[static_cast<std::size_t>(static_cast<ptrdiff_t>(x + rx) + k) % slots *
                           span];
            };
            convolve_rows(wx, column, across.data(), n);
            auto shifted = [&](ptrdiff_t k) {
              return across.data() + static_cast<ptrdiff_t>(ry) + k;
            };
            convolve_rows(wy, shifted, smooth.data(), height);
            double* to = out.col(x) + top;
            for (std::size_t i = 0; i < height; ++i) to[i] = smooth[i];
            if (x % 256 == 0) pause();
          }
        }
      },
      interrupt);
}

}  // namespace bm
