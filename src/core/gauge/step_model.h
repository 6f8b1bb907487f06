// The grey level across a straight edge as a camera sees it: a step, blurred by a Gaussian,
// averaged over the pixel. A pixel seen at an angle is the sum of two boxes: the wider one is kept
// as it is, the narrower one is taken for a Gaussian of the same variance.
#pragma once
#include <cmath>
#include <cstddef>
#include <cstdint>
#include <cstring>

#include "../common/speed.h"

namespace bm {

// e^x for x <= 0 to 1e-11 of itself, in a form that compilers vectorise.
BM_INLINE double exp_down(double x) {
  x = 0.5 * ((x - 700) + std::fabs(x + 700));  // at least -700, without a branch
  const double magic = 6755399441055744.0;     // 1.5 * 2^52: rounds to a whole number
  const double shifted = x * 1.44269504088896340736 + magic, n = shifted - magic;
  const double r = (x - n * 0.693147180369123816490) - n * 1.90821492927058770002e-10;
  double p = 1.0 / 40320;
  p = p * r + 1.0 / 5040;
  p = p * r + 1.0 / 720;
  p = p * r + 1.0 / 120;
  p = p * r + 1.0 / 24;
  p = p * r + 1.0 / 6;
  p = p * r + 0.5;
  p = p * r + 1;
  p = p * r + 1;
  std::int64_t bits;
  std::memcpy(&bits, &shifted, sizeof bits);
  bits = (bits + 1023) << 52;
  double power;
  std::memcpy(&power, &bits, sizeof power);
  return p * power;
}

// Density and distribution of the standard normal; the latter to 1.5e-7 (Abramowitz & Stegun 1964,
// 7.1.26).
BM_INLINE void normal(double z, double& density, double& below) {
  const double a = std::fabs(z) * 0.70710678118654752, e = exp_down(-a * a);
  const double t = 1 / (1 + 0.3275911 * a);
  double q = 1.061405429;
  q = q * t - 1.453152027;
  q = q * t + 1.421413741;
  q = q * t - 0.284496736;
  q = q * t + 0.254829592;
  q *= 0.5 * t * e;
  density = 0.39894228040143268 * e;
  below = 0.5 + std::copysign(0.5 - q, z);
}

// For points at distances u from the edge: share of the step that is seen there, and its change
// with u and with the blur.
BM_CLONES inline void step_seen(const double* __restrict u, std::size_t n, double box, double blur,
                                double* __restrict share, double* __restrict by_place,
                                double* __restrict by_blur) {
  const double half = 0.5 * box, per_blur = 1 / blur, per_box = 1 / box;
  for (std::size_t i = 0; i < n; ++i) {
    const double right = (u[i] + half) * per_blur, left = (u[i] - half) * per_blur;
    double d1, p1, d0, p0;
    normal(right, d1, p1);
    normal(left, d0, p0);
    share[i] = blur * per_box * ((right * p1 + d1) - (left * p0 + d0));
    by_place[i] = per_box * (p1 - p0);
    by_blur[i] = per_box * (d1 - d0);
  }
}

}  // namespace bm
