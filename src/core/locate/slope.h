// The slope of the grey levels at a pixel (Sobel's, per pixel), and the noise it has to rise above.
#pragma once
#include <algorithm>
#include <cmath>
#include <cstdint>
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
struct Direction {
  std::int8_t x, y;
};
constexpr float unit = 127;

struct Directions {
  size_t rows, cols;
  std::vector<Direction> at;
};

BM_CLONES inline void directions_of_column(const float* p, ptrdiff_t rows, float least_square,
                                           Direction* to, size_t n) {
  for (size_t i = 0; i < n; ++i) {
    const SlopeVector s = slope_at(p + i, rows);
    const float square = s.x * s.x + s.y * s.y;
    const float f = square > least_square ? unit / std::sqrt(square) : 0;
    to[i] = {static_cast<std::int8_t>(static_cast<std::int32_t>(s.x * f)),
             static_cast<std::int8_t>(static_cast<std::int32_t>(s.y * f))};
  }
}

inline Directions directions_of(const Level& level, float least_slope) {
  Directions out{level.rows, level.cols, std::vector<Direction>(level.rows * level.cols, {0, 0})};
  for (size_t x = 1; x + 1 < level.cols; ++x)
    directions_of_column(level.col(x) + 1, static_cast<ptrdiff_t>(level.rows),
                         least_slope * least_slope, out.at.data() + x * level.rows + 1,
                         level.rows - 2);
  return out;
}

// Standard deviation of slope_at() in noise of one grey level that differs from pixel to pixel.
constexpr double slope_noise = 0.4330127;  // sqrt(12) / 8

// Standard deviation of a picture's noise, from how much pixels differ from their neighbours'
// plane (Immerkaer 1996), as a median, so that edges do not count.
inline double noise_of(Plane<const double> picture) {
  if (picture.rows < 3 || picture.cols < 3) return 0;
  const size_t wanted = 160, step_x = std::max<size_t>(1, (picture.cols - 2) / wanted),
               step_y = std::max<size_t>(1, (picture.rows - 2) / wanted);
  std::vector<double> off;
  for (size_t x = 1; x + 1 < picture.cols; x += step_x) {
    const double *l = picture.col(x - 1), *m = picture.col(x), *r = picture.col(x + 1);
    for (size_t y = 1; y + 1 < picture.rows; y += step_y)
      off.push_back(std::fabs(l[y - 1] + l[y + 1] + r[y - 1] + r[y + 1] -
                              2 * (l[y] + r[y] + m[y - 1] + m[y + 1]) + 4 * m[y]));
  }
  auto middle = off.begin() + static_cast<ptrdiff_t>(off.size() / 2);
  std::nth_element(off.begin(), middle, off.end());
  return *middle / (6 * 0.6744898);
}

}  // namespace bm
