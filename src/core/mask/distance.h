// Exact Euclidean distance of object pixels to the nearest background pixel centre, after
// Felzenszwalb & Huttenlocher (2012), "Distance transforms of sampled functions",
// Theory of Computing 8, 415-428; where objects are small, by a search along the rows. Background
// beyond the frame is not known and not counted.
#pragma once
#include <algorithm>
#include <atomic>
#include <cmath>
#include <cstdint>
#include <cstring>
#include <limits>
#include <vector>

#include "../common/bits.h"
#include "../common/large_pages.h"
#include "../common/parallel.h"
#include "../common/speed.h"

namespace bm {

constexpr float kFar = std::numeric_limits<float>::infinity();

// Squared distance along one row from squared distances of its pixels along the columns.
class LowerEnvelope {
 public:
  explicit LowerEnvelope(std::size_t n) : at_(n), from_(n + 1) {}
  void run(const float* f, std::size_t n, double step, float* out) {
    const double s2 = step * step;
    std::size_t k = 0;
    bool any = false;
    for (std::size_t q = 0; q < n; ++q) {
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
      for (std::size_t q = 0; q < n; ++q) out[q] = kFar;
      return;
    }
    const std::size_t last = k;
    k = 0;
    for (std::size_t q = 0; q < n; ++q) {
      while (k < last && from_[k + 1] < static_cast<double>(q)) ++k;
      const double d = static_cast<double>(q) - static_cast<double>(at_[k]);
      out[q] = static_cast<float>(s2 * d * d + f[at_[k]]);
    }
  }

 private:
  static double meet(const float* f, std::size_t p, std::size_t q, double s2) {
    const double a = static_cast<double>(p), b = static_cast<double>(q);
    return ((f[q] + s2 * b * b) - (f[p] + s2 * a * a)) / (2 * s2 * (b - a));
  }
  std::vector<std::size_t> at_;
  std::vector<double> from_;
};

// Distances down a column, squared; infinite where it holds no background.
inline void column_distances(const BitPlane& bits, float step, std::size_t x, float* d) {
  std::memset(d, 0, bits.rows * sizeof *d);
  const Word* column = bits.col(x);
  for (std::size_t y = next_bit(column, bits.words, bits.rows, 0, true); y < bits.rows;) {
    const std::size_t end = next_bit(column, bits.words, bits.rows, y, false);
    const float above = y == 0 ? kFar : 0, below = end == bits.rows ? kFar : 0;
    for (std::size_t i = y; i < end; ++i) {
      const float gap =
          std::min(static_cast<float>(i - y + 1) + above, static_cast<float>(end - i) + below) *
          step;
      d[i] = gap * gap;
    }
    y = next_bit(column, bits.words, bits.rows, end, true);
  }
}

// Those columns that a search from one column can reach, computed as it moves on.
class NearColumns {
 public:
  NearColumns(const BitPlane& bits, float step, ptrdiff_t reach, std::size_t first)
      : bits_(bits),
        step_(step),
        reach_(static_cast<std::size_t>(reach)),
        held_(2 * reach_ + 1),
        next_(first > reach_ ? first - reach_ : 0),
        room_(held_ * bits.rows) {}
  void move_to(std::size_t x) {
    for (; next_ < std::min(bits_.cols, x + reach_ + 1); ++next_)
      column_distances(bits_, step_, next_, at(next_));
  }
  const float* col(std::size_t x) const { return room_.data() + x % held_ * bits_.rows; }

 private:
  float* at(std::size_t x) { return room_.data() + x % held_ * bits_.rows; }
  const BitPlane& bits_;
  float step_;
  std::size_t reach_, held_, next_;
  std::vector<float> room_;
};

constexpr std::size_t kBlock = 64;  // rows searched together: those of one word of the mask

BM_INLINE float smaller(float a, float b) { return a < b ? a : b; }
// Two columns to either side at once.
BM_CLONES inline void nearer(const float* __restrict left, const float* __restrict right,
                             float across, const float* __restrict left2,
                             const float* __restrict right2, float across2,
                             float* __restrict best) {
  for (std::size_t i = 0; i < kBlock; ++i) {
    best[i] = smaller(best[i], smaller(smaller(left[i], right[i]) + across,
                                       smaller(left2[i], right2[i]) + across2));
  }
}
// By their bits, which sort as positive floats do and need no care for NaN.
BM_CLONES inline float farthest(const float* best) {
  std::int32_t most = 0;
  for (std::size_t i = 0; i < kBlock; ++i) {
    std::int32_t bits;
    std::memcpy(&bits, best + i, sizeof bits);
    most = bits > most ? bits : most;
  }
  float farthest;
  std::memcpy(&farthest, &most, sizeof farthest);
  return farthest;
}

// Looks along the rows, outward from every column, until no nearer background can come; a block of
// rows at a time. False when somewhere that is farther than `reach` columns away: then the envelope
// is quicker.
inline bool search_rows(const BitPlane& bits, double sx, double sy, ptrdiff_t reach,
                        std::size_t first, std::size_t stop, Plane<float> out) {
  const std::size_t rows = bits.rows;
  const ptrdiff_t last = static_cast<ptrdiff_t>(bits.cols) - 1;
  NearColumns down(bits, static_cast<float>(sy), reach, first);
  std::vector<float> none(kBlock, kFar), here(kBlock), left(kBlock), right(kBlock), left2(kBlock),
      right2(kBlock);
  for (std::size_t x = first; x < stop; ++x) {
    down.move_to(x);
    for (std::size_t top = 0; top < rows; top += kBlock) {
      const std::size_t n = std::min(kBlock, rows - top);
      if (bits.col(x)[top / kBlock] == 0) {
        std::fill_n(out.col(x) + top, n, 0.0f);
        continue;
      }
      auto column = [&](ptrdiff_t at, std::vector<float>& room) -> const float* {
        if (at < 0 || at > last) return none.data();
        const float* from = down.col(static_cast<std::size_t>(at)) + top;
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
      auto across = [&](ptrdiff_t dx) {
        return static_cast<float>(sx * sx * static_cast<double>(dx) * static_cast<double>(dx));
      };
      for (ptrdiff_t dx = 1; most > 0; dx += 2) {
        if (across(dx) >= most) break;
        if (dx >= reach) return false;
        nearer(column(at - dx, left), column(at + dx, right), across(dx),
               column(at - dx - 1, left2), column(at + dx + 1, right2), across(dx + 1), best);
        most = farthest(best);
        if (at - dx < 0 && at + dx > last) break;
      }
      std::copy(best, best + n, out.col(x) + top);
    }
  }
  return true;
}

// The same for distances of any reach, a few rows at a time.
inline void envelope_rows(Plane<const float> down, double sx, std::size_t first, std::size_t last,
                          Plane<float> out) {
  const std::size_t band = 16,
                    cols = down.cols;  // rows turned at a time, a cache line of each column
  std::vector<float> row(band * cols), result(cols);
  LowerEnvelope envelope(cols);
  for (std::size_t top = first; top < last; top += band) {
    const std::size_t n = std::min(band, last - top);
    for (std::size_t x = 0; x < cols; ++x)
      for (std::size_t i = 0; i < n; ++i) row[i * cols + x] = down.col(x)[top + i];
    for (std::size_t i = 0; i < n; ++i) {
      envelope.run(&row[i * cols], cols, sx, result.data());
      std::copy(result.begin(), result.end(), &row[i * cols]);
    }
    for (std::size_t x = 0; x < cols; ++x)
      for (std::size_t i = 0; i < n; ++i) out.col(x)[top + i] = row[i * cols + x];
  }
}

// out: squared distance in the unit of (sx, sy); 0 on background; infinite when there is no
// background.
template <class Interrupt>
void squared_distance(const BitPlane& bits, double sx, double sy, Plane<float> out, int threads,
                      Interrupt interrupt) {
  std::atomic<bool> near{true};
  over_columns(
      out.cols, threads, 1,
      [&](std::size_t first, std::size_t last, auto) {
        if (!search_rows(bits, sx, sy, 48, first, last, out)) near = false;
      },
      interrupt);
  if (near) return;
  Scratch<float> kept(out.size());
  const Plane<float> down{kept.data(), out.rows, out.cols};
  const Plane<const float> known{kept.data(), out.rows, out.cols};
  over_columns(
      out.cols, threads, 1,
      [&](std::size_t first, std::size_t last, auto) {
        for (std::size_t x = first; x < last; ++x)
          column_distances(bits, static_cast<float>(sy), x, down.col(x));
      },
      interrupt);
  over_columns(
      out.rows, threads, 16,
      [&](std::size_t first, std::size_t last, auto) {
        envelope_rows(known, sx, first, last, out);
      },
      interrupt);
}

}  // namespace bm
