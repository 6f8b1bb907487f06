// A picture, and what it looks like at a half, a quarter, ... of its size: means of 2 x 2 pixels.
// A last odd row or column is left out.
#pragma once
#include <algorithm>
#include <vector>

#include "../common/large_pages.h"
#include "../common/plane.h"
#include "../common/speed.h"

namespace bm {

struct Level {
  size_t rows, cols;
  Scratch<float> grey;
  const float* col(size_t x) const { return grey.data() + x * rows; }
};

template <class T>
BM_CLONES inline void halve_columns(const T* __restrict a, const T* __restrict b,
                                    float* __restrict to, size_t n) {
  for (size_t i = 0; i < n; ++i)
    to[i] = static_cast<float>((a[2 * i] + a[2 * i + 1]) + (b[2 * i] + b[2 * i + 1])) * 0.25f;
}

template <class At>
Level halved(size_t rows, size_t cols, At col) {
  Level out{rows / 2, cols / 2, Scratch<float>((rows / 2) * (cols / 2))};
  for (size_t x = 0; x < out.cols; ++x)
    halve_columns(col(2 * x), col(2 * x + 1), out.grey.data() + x * out.rows, out.rows);
  return out;
}

// Levels 1 .. top; fewer where nothing would be left of the picture.
inline std::vector<Level> pyramid_of(Plane<const double> picture, int top) {
  std::vector<Level> levels;
  for (int k = 1; k <= top; ++k) {
    const size_t rows = k == 1 ? picture.rows : levels.back().rows,
                 cols = k == 1 ? picture.cols : levels.back().cols;
    if (std::min(rows, cols) < 6) break;
    if (k == 1)
      levels.push_back(halved(rows, cols, [&](size_t x) { return picture.col(x); }));
    else
      levels.push_back(halved(rows, cols, [&](size_t x) { return levels.back().col(x); }));
  }
  return levels;
}

// The picture itself as a level.
inline Level as_level(Plane<const double> picture) {
  Level out{picture.rows, picture.cols, Scratch<float>(picture.size())};
  convert(picture.data, out.grey.data(), picture.size());
  return out;
}

}  // namespace bm
