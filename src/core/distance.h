// Exact Euclidean distance of object pixels to the nearest background pixel centre, after
// Felzenszwalb & Huttenlocher (2012), "Distance transforms of sampled functions",
// Theory of Computing 8, 415-428; where objects are small, by a search along the rows. Background beyond the frame is not known and not counted.
#pragma once
#include <algorithm>
#include <cmath>
#include <limits>
#include <vector>

#include "plane.h"
#include "speed.h"

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

// Distances down the columns, squared; infinite where a column holds no background.
template <class IsObject>
void column_distances(size_t rows, size_t cols, double sy, IsObject object, Plane<float> out) {
  for (size_t x = 0; x < cols; ++x) {
    float* d = out.col(x);
    float gap = kFar;
    const float step = static_cast<float>(sy);
    for (size_t y = 0; y < rows; ++y) {
      gap = object(y, x) ? gap + step : 0;
      d[y] = gap;
    }
    for (size_t y = rows; y-- > 0;) {
      gap = d[y] == 0 ? 0 : gap + step;
      const float nearest = std::min(d[y], gap);
      d[y] = nearest * nearest;
    }
  }
}

constexpr size_t kBlock = 64;  // rows searched together

BM_INLINE float smaller(float a, float b) { return a < b ? a : b; }
// Two columns to either side at once.
BM_CLONES inline void nearer(const float* __restrict left, const float* __restrict right, float across, const float* __restrict left2,
                             const float* __restrict right2, float across2, float* __restrict best) {
  for (size_t i = 0; i < kBlock; ++i) {
    best[i] = smaller(best[i], smaller(smaller(left[i], right[i]) + across, smaller(left2[i], right2[i]) + across2));
  }
}
BM_CLONES inline float farthest(const float* best) {
  float most = 0;
  for (size_t i = 0; i < kBlock; ++i) most = best[i] > most ? best[i] : most;
  return most;
}

// Looks along the rows, outward from every column, until no nearer background can come; a block of rows at a time.
// False when somewhere that is farther than `reach` columns away: then the envelope is quicker.
inline bool search_rows(Plane<const float> down, double sx, ptrdiff_t reach, Plane<float> out) {
  const size_t rows = down.rows, cols = down.cols;
  const ptrdiff_t last = static_cast<ptrdiff_t>(cols) - 1;
  std::vector<float> none(kBlock, kFar), here(kBlock), left(kBlock), right(kBlock), left2(kBlock), right2(kBlock);
  for (size_t x = 0; x < cols; ++x) {
    for (size_t top = 0; top < rows; top += kBlock) {
      const size_t n = std::min(kBlock, rows - top);
      auto column = [&](ptrdiff_t at, std::vector<float>& room) -> const float* {
        if (at < 0 || at > last) return none.data();
        const float* from = down.col(static_cast<size_t>(at)) + top;
        if (n == kBlock) return from;
        std::copy(from, from + n, room.begin());
        std::fill(room.begin() + static_cast<ptrdiff_t>(n), room.end(), 0.0f);
        return room.data();
      };
      const ptrdiff_t at = static_cast<ptrdiff_t>(x);
      const float* own = column(at, here);
      float best[kBlock];
      std::copy(own, own + kBlock, best);
      float most = farthest(best);
      auto across = [&](ptrdiff_t dx) { return static_cast<float>(sx * sx * static_cast<double>(dx) * static_cast<double>(dx)); };
      for (ptrdiff_t dx = 1; most > 0; dx += 2) {
        if (across(dx) >= most) break;
        if (dx > reach) return false;
        nearer(column(at - dx, left), column(at + dx, right), across(dx), column(at - dx - 1, left2), column(at + dx + 1, right2),
               across(dx + 1), best);
        most = farthest(best);
        if (at - dx < 0 && at + dx > last) break;
      }
      std::copy(best, best + n, out.col(x) + top);
    }
  }
  return true;
}

// out: squared distance in the unit of (sx, sy); 0 on background; infinite when there is no background.
template <class IsObject>
void squared_distance(size_t rows, size_t cols, double sx, double sy, IsObject object, Plane<float> out) {
  std::vector<float> kept(rows * cols);
  const Plane<float> down{kept.data(), rows, cols};
  column_distances(rows, cols, sy, object, down);
  if (search_rows({kept.data(), rows, cols}, sx, 48, out)) return;
  const size_t band = 16;  // rows turned at a time, a cache line of each column
  std::vector<float> row(band * cols), result(cols);
  LowerEnvelope envelope(cols);
  for (size_t top = 0; top < rows; top += band) {
    const size_t n = std::min(band, rows - top);
    for (size_t x = 0; x < cols; ++x)
      for (size_t i = 0; i < n; ++i) row[i * cols + x] = down.col(x)[top + i];
    for (size_t i = 0; i < n; ++i) {
      envelope.run(&row[i * cols], cols, sx, result.data());
      std::copy(result.begin(), result.end(), &row[i * cols]);
    }
    for (size_t x = 0; x < cols; ++x)
      for (size_t i = 0; i < n; ++i) out.col(x)[top + i] = row[i * cols + x];
  }
}

}  // namespace bm
