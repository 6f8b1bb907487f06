// Part of a picture, smoothed, with values between its pixels by cubics through four (Keys 1981).
#pragma once
#include <algorithm>
#include <array>
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
    smooth(picture);
  }

  // Whether values can be had at a place and one pixel around it.
  bool holds(double x, double y) const {
    const double u = x - static_cast<double>(x0_), v = y - static_cast<double>(y0_), edge = 2.5;
    return u > edge && v > edge && u < static_cast<double>(cols_) - edge &&
           v < static_cast<double>(rows_) - edge;
  }

  double at(double x, double y) const {
    const double u = x - 0.5 - static_cast<double>(x0_), v = y - 0.5 - static_cast<double>(y0_);
    const ptrdiff_t i = static_cast<ptrdiff_t>(u), j = static_cast<ptrdiff_t>(v);
    const std::array<float, 4> wx = weights(static_cast<float>(u - static_cast<double>(i))),
                               wy = weights(static_cast<float>(v - static_cast<double>(j)));
    const float* p = grey_.data() + (i - 1) * rows_ + (j - 1);
    float sum = 0;
    for (size_t k = 0; k < 4; ++k, p += rows_)
      sum += wx[k] * (wy[0] * p[0] + wy[1] * p[1] + wy[2] * p[2] + wy[3] * p[3]);
    return static_cast<double>(sum);
  }

 private:
  static ptrdiff_t clamp(double v, size_t n) {
    return static_cast<ptrdiff_t>(std::min(std::max(v, 0.0), static_cast<double>(n - 1)));
  }
  static std::array<float, 4> weights(float t) {
    const float t2 = t * t, t3 = t2 * t;
    return {-0.5f * t3 + t2 - 0.5f * t, 1.5f * t3 - 2.5f * t2 + 1, -1.5f * t3 + 2 * t2 + 0.5f * t,
            0.5f * t3 - 0.5f * t2};
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
  std::vector<float> grey_;
};

}  // namespace bm
