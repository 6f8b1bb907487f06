// Part of a picture, smoothed, with values between its pixels by cubics through four (Keys 1981).
#pragma once
#include <algorithm>
#include <cstdint>
#include <cstring>
#include <vector>

#include "../common/plane.h"
#include "../filter/gaussian.h"

namespace bm {

constexpr double settle_sigma = 1.5;  // smoothing, in pixels

class SmoothPatch {
 public:
  SmoothPatch(Plane<const double> picture, double left, double top, double right, double bottom) {
    const double margin = 3;
    x0_ = clamp(left - margin, picture.cols);
    y0_ = clamp(top - margin, picture.rows);
    cols_ = clamp(right + margin, picture.cols) + 1 - x0_;
    rows_ = clamp(bottom + margin, picture.rows) + 1 - y0_;
    left_ = static_cast<double>(x0_) + 0.5;
    top_ = static_cast<double>(y0_) + 0.5;
    smooth(picture);
  }

  // Whether values can be had at a place and one pixel around it.
  bool holds(double x, double y) const {
    const double u = x - static_cast<double>(x0_), v = y - static_cast<double>(y0_), edge = 2.5;
    return u > edge && v > edge && u < static_cast<double>(cols_) - edge &&
           v < static_cast<double>(rows_) - edge;
  }

  double at(double x, double y) const {
    const double u = x - left_, v = y - top_;
    const std::int32_t i = static_cast<std::int32_t>(u), j = static_cast<std::int32_t>(v);
    const Cubic across = weights(static_cast<float>(u - i)),
                down = weights(static_cast<float>(v - j));
    const float* p = grey_.data() + (i - 1) * rows_ + (j - 1);
    Cubic row{};
    for (size_t k = 0; k < 4; ++k, p += rows_) row += across[k] * four(p);
    row *= down;
    return static_cast<double>((row[0] + row[1]) + (row[2] + row[3]));
  }

 private:
  static ptrdiff_t clamp(double v, size_t n) {
    return static_cast<ptrdiff_t>(std::min(std::max(v, 0.0), static_cast<double>(n - 1)));
  }
  // Weights of four pixels in a line, or four grey levels.
  typedef float Cubic __attribute__((vector_size(16)));
  static Cubic weights(float t) {
    const Cubic one{0, 1, 0, 0}, by_t{-0.5f, 0, 0.5f, 0}, by_t2{1, -2.5f, 2, -0.5f},
        by_t3{-0.5f, 1.5f, -1.5f, 0.5f};
    return one + t * (by_t + t * (by_t2 + t * by_t3));
  }
  static Cubic four(const float* p) {
    Cubic out;
    std::memcpy(&out, p, sizeof out);
    return out;
  }

  void smooth(Plane<const double> picture) {
    const std::vector<float> w = gaussian_weights(settle_sigma);
    const ptrdiff_t reach = static_cast<ptrdiff_t>(w.size()) - 1;
    const size_t n = static_cast<size_t>(rows_), tall = n + 2 * static_cast<size_t>(reach);
    std::vector<float> down(n * static_cast<size_t>(cols_ + 2 * reach)), column(tall);
    for (ptrdiff_t x = -reach; x < cols_ + reach; ++x) {
      load_rows(picture.col(reflect(x0_ + x, picture.cols)), picture.rows, y0_ - reach, tall,
                column.data());
      convolve_rows(
          w, [&](ptrdiff_t k) { return column.data() + reach + k; },
          down.data() + static_cast<size_t>(x + reach) * n, n);
    }
    grey_.resize(n * static_cast<size_t>(cols_));
    for (ptrdiff_t x = 0; x < cols_; ++x)
      convolve_rows(
          w, [&](ptrdiff_t k) { return down.data() + static_cast<size_t>(x + reach + k) * n; },
          grey_.data() + static_cast<size_t>(x) * n, n);
  }

  ptrdiff_t x0_, y0_, rows_, cols_;
  double left_, top_;  // centre of the first pixel
  std::vector<float> grey_;
};

}  // namespace bm
