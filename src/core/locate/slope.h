// The slope of the grey levels at a pixel (Sobel's, per pixel), and the noise it has to rise above.
#pragma once
#include <algorithm>
#include <cmath>
#include <cstdint>
#include <cstring>
#include <vector>

#include "pyramid.h"

namespace bm {

struct SlopeVector {
  float x, y;
};

// Of a pixel that has neighbours on all sides; `p` is its grey level, columns `rows` apart.
BM_INLINE SlopeVector slope_at(const float* p, ptrdiff_t rows) {
  const float *l = p - rows, *r = p + rows;
  const float x = (r[-1] - l[-1]) + 2 * (r[0] - l[0]) + (r[1] - l[1]),
              y = (l[1] - l[-1]) + 2 * (p[1] - p[-1]) + (r[1] - r[-1]);
  return {x * 0.125f, y * 0.125f};
}

// Direction of the slope at every pixel of a level, as a vector of length `unit`; zero where the
// slope is no more than noise, and along the frame.
constexpr float unit = 127;

struct Directions {
  size_t rows, cols;
  std::vector<std::int8_t> x, y;
};

// One over the square root, to a few millionths: std::sqrt() may set errno, so that the compiler
// would not vectorise it.
BM_INLINE float inverse_root(float v) {
  std::uint32_t bits;
  std::memcpy(&bits, &v, sizeof bits);
  bits = 0x5f3759dfu - (bits >> 1);
  float root;
  std::memcpy(&root, &bits, sizeof root);
  root *= 1.5f - 0.5f * v * root * root;
  return root * (1.5f - 0.5f * v * root * root);
}

// What counts is chosen by bits: a branch would not be vectorised either.
BM_CLONES inline void directions_of_column(const float* l, const float* p, const float* r,
                                           float least_square, std::int8_t* __restrict x,
                                           std::int8_t* __restrict y, size_t n) {
  for (size_t i = 1; i + 1 < n; ++i) {
    const float dx = (r[i - 1] - l[i - 1]) + 2 * (r[i] - l[i]) + (r[i + 1] - l[i + 1]),
                dy = (l[i + 1] - l[i - 1]) + 2 * (p[i + 1] - p[i - 1]) + (r[i + 1] - r[i - 1]);
    const float square = dx * dx + dy * dy, f = unit * inverse_root(square);
    const std::int32_t counts = -static_cast<std::int32_t>(square > least_square);
    x[i] = static_cast<std::int8_t>(static_cast<std::int32_t>(dx * f) & counts);
    y[i] = static_cast<std::int8_t>(static_cast<std::int32_t>(dy * f) & counts);
  }
}

inline Directions directions_of(const Level& level, float least_slope) {
  Directions out{level.rows, level.cols, std::vector<std::int8_t>(level.rows * level.cols, 0),
                 std::vector<std::int8_t>(level.rows * level.cols, 0)};
  const float least = 8 * least_slope;  // of Sobel's sums
  for (size_t x = 1; x + 1 < level.cols; ++x)
    directions_of_column(level.col(x - 1), level.col(x), level.col(x + 1), least * least,
                         out.x.data() + x * level.rows, out.y.data() + x * level.rows, level.rows);
  return out;
}

// Standard deviation of slope_at() on a level of the pyramid, in noise that differs from pixel to
// pixel of the picture.
inline double slope_noise_at(double noise, int level) {
  return std::ldexp(noise * 0.4330127, -level);  // sqrt(12) / 8
}

}  // namespace bm
