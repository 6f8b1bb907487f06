// Sums over the runs of one object.
#pragma once
#include <algorithm>
#include <cstdint>
#include <limits>

#include "../objects/label.h"
#include "../common/plane.h"
#include "../common/speed.h"

namespace bm {

// In whole pixels.
struct Tally {
  double n = 0, x = 0, y = 0, xx = 0, yy = 0, xy = 0;
  double grey = 0, grey2 = 0, grey_x = 0, grey_y = 0, reference = 0;
  double grey_min = std::numeric_limits<double>::infinity(),
         grey_max = -std::numeric_limits<double>::infinity();
  // pixels whose neighbour one and two steps away is in the object: above, to the left, to the
  // upper and lower left
  double above[2] = {0, 0}, left_of[2] = {0, 0}, upper_left[2] = {0, 0}, lower_left[2] = {0, 0};
  std::int64_t runs = 0, links = 0;
  std::int32_t left = INT32_MAX, right = -1, top = INT32_MAX, bottom = -1;
};

// Sums and ends of a stretch of grey values less a reference, which keeps the squares small: no
// cancellation in the variance. Four of each, so that none waits for another.
BM_CLONES inline void add_grey(const double* grey, double x, double top, std::size_t n,
                               double reference, Tally& t) {
  double sum[4] = {0}, square[4] = {0}, moment[4] = {0}, low[4], high[4];
  std::fill(low, low + 4, t.grey_min);
  std::fill(high, high + 4, t.grey_max);
  double place = 0;  // of the first of four
  auto add = [&](std::size_t k, double v, double along) {
    const double g = v - reference;
    sum[k] += g;
    square[k] += g * g;
    moment[k] += g * along;
    low[k] = v < low[k] ? v : low[k];
    high[k] = v > high[k] ? v : high[k];
  };
  std::size_t i = 0;
  for (; i + 4 <= n; i += 4, place += 4)
    for (std::size_t k = 0; k < 4; ++k) add(k, grey[i + k], place);
  for (; i < n; ++i) add(0, grey[i], place++);
  // the k-th lane lies k farther along
  const double all = (sum[0] + sum[1]) + (sum[2] + sum[3]), count = static_cast<double>(n);
  const double along =
      (moment[0] + moment[1]) + (moment[2] + moment[3]) + sum[1] + 2 * sum[2] + 3 * sum[3];
  t.grey += all;
  t.grey_x += x * (all + reference * count);
  t.grey_y += top * (all + reference * count) + along + reference * count * (count - 1) / 2;
  t.grey2 += (square[0] + square[1]) + (square[2] + square[3]);
  t.grey_min = *std::min_element(low, low + 4);
  t.grey_max = *std::max_element(high, high + 4);
}

inline void add_run(const Run& r, const double* grey, Tally& t) {
  const double n = r.end - r.top, x = r.col, first = r.top, last = r.end - 1;
  const double sum_y = n * (first + last) / 2;
  const double sum_yy =
      n * (first * first + first * last + last * last) / 3 + n * (last - first) / 6;
  if (t.n == 0) t.reference = grey[r.top];
  t.n += n;
  t.x += n * x;
  t.y += sum_y;
  t.xx += n * x * x;
  t.yy += sum_yy;
  t.xy += x * sum_y;
  add_grey(grey + r.top, x, first, static_cast<std::size_t>(r.end - r.top), t.reference, t);
  ++t.runs;
  t.above[0] += n - 1;
  t.above[1] += std::max(0.0, n - 2);
  t.left = std::min(t.left, r.col);
  t.right = std::max(t.right, r.col);
  t.top = std::min(t.top, r.top);
  t.bottom = std::max(t.bottom, r.end - 1);
}

// The runs of an object in one column.
struct Stretch {
  const Run *first, *last;
  bool is_at(std::int32_t column) const { return first != last && first->col == column; }
};

// Pixels that two columns have in common when the second is moved down by `by`.
inline double common(Stretch a, Stretch b, std::int32_t by) {
  double n = 0;
  while (a.first != a.last && b.first != b.last) {
    const std::int32_t end = b.first->end + by;
    n += std::max(0, std::min(a.first->end, end) - std::max(a.first->top, b.first->top + by));
    if (a.first->end < end)
      ++a.first;
    else
      ++b.first;
  }
  return n;
}

// Pairs of runs of two neighbouring columns that touch, at corners too.
inline std::int64_t touching(Stretch a, Stretch b) {
  std::int64_t n = 0;
  while (a.first != a.last && b.first != b.last) {
    n += a.first->top <= b.first->end && b.first->top <= a.first->end;
    if (a.first->end < b.first->end)
      ++a.first;
    else
      ++b.first;
  }
  return n;
}

// `run` to `end`: an object's, column by column, from top to bottom within each.
inline Tally tally(const Run* run, const Run* end, Plane<const double> grey) {
  Tally t;
  Stretch before{nullptr, nullptr}, now{nullptr, nullptr};
  while (run != end) {
    Stretch next{run, run};
    for (; next.last != end && next.last->col == run->col; ++next.last) {
      if (end - next.last > 4) fetch(next.last[4], grey);
      add_run(*next.last, grey.col(static_cast<std::size_t>(run->col)), t);
      if (next.last != run && next.last->top == (next.last - 1)->end + 1) ++t.above[1];
    }
    const std::int32_t column = run->col;
    const Stretch one = now.is_at(column - 1) ? now : Stretch{nullptr, nullptr};
    const Stretch two = now.is_at(column - 2)      ? now
                        : before.is_at(column - 2) ? before
                                                   : Stretch{nullptr, nullptr};
    for (int k = 0; k < 2; ++k) {
      const Stretch& other = k == 0 ? one : two;
      t.left_of[k] += common(next, other, 0);
      t.upper_left[k] += common(next, other, k + 1);
      t.lower_left[k] += common(next, other, -k - 1);
    }
    t.links += touching(next, one);
    before = now;
    now = next;
    run = next.last;
  }
  return t;
}

}  // namespace bm
