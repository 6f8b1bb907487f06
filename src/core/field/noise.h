// Noise of a picture.
#pragma once
#include <algorithm>
#include <cmath>
#include <vector>

#include "../common/plane.h"

namespace bm {

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
