// Exact Euclidean distance of object pixels to the nearest background pixel centre, after
// Felzenszwalb & Huttenlocher (2012), "Distance transforms of sampled functions",
// Theory of Computing 8, 415-428. Background beyond the frame is not known and not counted.
#pragma once
#include <cmath>
#include <limits>
#include <vector>

#include "plane.h"

namespace bm {

constexpr float kFar = std::numeric_limits<float>::infinity();

// Squared distance along one row from squared distances of its pixels along the columns.
class LowerEnvelope {
 public:
  explicit LowerEnvelope(size_t n) : at_(n), from_(n + 1) {}
  void run(const float* f, size_t n, double step, float* out) {
    const double s2 = step * step;
    size_t k = 0;
    bool any = false;
    for (size_t q = 0; q < n; ++q) {
      if (f[q] == kFar) continue;
      if (!any) {
        any = true;
        at_[0] = q;
        from_[0] = -std::numeric_limits<double>::infinity();
        continue;
      }
      double cross = meet(f, at_[k], q, s2);
      while (cross <= from_[k]) cross = meet(f, at_[--k], q, s2);
      at_[++k] = q;
      from_[k] = cross;
    }
    if (!any) {
      for (size_t q = 0; q < n; ++q) out[q] = kFar;
      return;
    }
    const size_t last = k;
    k = 0;
    for (size_t q = 0; q < n; ++q) {
      while (k < last && from_[k + 1] < static_cast<double>(q)) ++k;
      const double d = static_cast<double>(q) - static_cast<double>(at_[k]);
      out[q] = static_cast<float>(s2 * d * d + f[at_[k]]);
    }
  }

 private:
  static double meet(const float* f, size_t p, size_t q, double s2) {
    const double a = static_cast<double>(p), b = static_cast<double>(q);
    return ((f[q] + s2 * b * b) - (f[p] + s2 * a * a)) / (2 * s2 * (b - a));
  }
  std::vector<size_t> at_;
  std::vector<double> from_;
};

// out: squared distance in the unit of (sx, sy); 0 on background; infinite when there is no background.
template <class IsObject>
void squared_distance(size_t rows, size_t cols, double sx, double sy, IsObject object, Plane<float> out) {
  for (size_t x = 0; x < cols; ++x) {
    float* d = out.col(x);
    double gap = std::numeric_limits<double>::infinity();
    for (size_t y = 0; y < rows; ++y) {
      gap = object(y, x) ? gap + sy : 0;
      d[y] = static_cast<float>(gap);
    }
    for (size_t y = rows; y-- > 0;) {
      gap = d[y] == 0 ? 0 : gap + sy;
      const float nearest = std::min(d[y], static_cast<float>(gap));
      d[y] = nearest * nearest;
    }
  }
  const size_t band = 16;  // rows turned at a time, a cache line of each column
  std::vector<float> row(band * cols), result(cols);
  LowerEnvelope envelope(cols);
  for (size_t top = 0; top < rows; top += band) {
    const size_t n = std::min(band, rows - top);
    for (size_t x = 0; x < cols; ++x)
      for (size_t i = 0; i < n; ++i) row[i * cols + x] = out.col(x)[top + i];
    for (size_t i = 0; i < n; ++i) {
      envelope.run(&row[i * cols], cols, sx, result.data());
      std::copy(result.begin(), result.end(), &row[i * cols]);
    }
    for (size_t x = 0; x < cols; ++x)
      for (size_t i = 0; i < n; ++i) out.col(x)[top + i] = row[i * cols + x];
  }
}

}  // namespace bm
