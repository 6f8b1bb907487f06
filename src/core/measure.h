// All measures of all objects of a label picture in one pass over its runs.
// Lengths and areas are in units of the pixel size (sx, sy) given.
#pragma once
#include <algorithm>
#include <cmath>
#include <cstdint>
#include <limits>
#include <vector>

#include "hull.h"
#include "label.h"
#include "speed.h"

namespace bm {

struct Measures {
  double pixels = 0, x = 0, y = 0;                   // count; centroid in pixels from the outer corner
  double area = 0, perimeter = 0;
  double feret_max = 0, feret_min = 0, feret_max_angle = 0, feret_min_angle = 0, hull_perimeter = 0, hull_area = 0;
  double smallest_box_length = 0, smallest_box_width = 0;
  double ellipse_major = 0, ellipse_minor = 0, orientation = 0;
  double left = 0, top = 0, extent_x = 0, extent_y = 0;  // upright box: corner in pixels, sides
  double grey_mean = 0, grey_sd = 0, grey_min = 0, grey_max = 0, grey_sum = 0;
  double grey_x = 0, grey_y = 0;  // centroid weighted by grey, in pixels
  double holes = 0;
  bool on_edge = false;
};

// Sums over the pixels of one object, in whole pixels.
struct Tally {
  double n = 0, x = 0, y = 0, xx = 0, yy = 0, xy = 0;
  double grey = 0, grey2 = 0, grey_x = 0, grey_y = 0, reference = 0;
  double grey_min = std::numeric_limits<double>::infinity(), grey_max = -std::numeric_limits<double>::infinity();
  double overlap = 0, overlap_up = 0, overlap_down = 0;  // pixels whose left (upper left, lower left) neighbour is in the object
  std::int64_t runs = 0, links = 0;
  std::int32_t left = INT32_MAX, right = -1, top = INT32_MAX, bottom = -1;
};

struct LabelRun {
  Run run;
  int label;
};

inline void label_runs(Plane<const int> labels, size_t x, std::vector<LabelRun>& runs) {
  const int* v = labels.col(x);
  for (size_t y = 0; y < labels.rows;) {
    while (y + 8 <= labels.rows && (v[y] | v[y + 1] | v[y + 2] | v[y + 3] | v[y + 4] | v[y + 5] | v[y + 6] | v[y + 7]) == 0) y += 8;
    if (y == labels.rows) break;
    if (v[y] <= 0) { ++y; continue; }
    size_t end = y + 1;
    while (end < labels.rows && v[end] == v[y]) ++end;
    runs.push_back({{static_cast<std::int32_t>(x), static_cast<std::int32_t>(y), static_cast<std::int32_t>(end)}, v[y]});
    y = end;
  }
}

// Sums and ends of a stretch of grey values less a reference, which keeps the squares small: no cancellation in the variance.
// Four of each, so that none waits for another.
BM_CLONES inline void add_grey(const double* grey, double x, double top, size_t n, double reference, Tally& t) {
  double sum[4] = {0}, square[4] = {0}, moment[4] = {0}, low[4], high[4];
  std::fill(low, low + 4, t.grey_min);
  std::fill(high, high + 4, t.grey_max);
  double place = 0;  // of the first of four
  auto add = [&](size_t k, double v, double along) {
    const double g = v - reference;
    sum[k] += g;
    square[k] += g * g;
    moment[k] += g * along;
    low[k] = v < low[k] ? v : low[k];
    high[k] = v > high[k] ? v : high[k];
  };
  size_t i = 0;
  for (; i + 4 <= n; i += 4, place += 4)
    for (size_t k = 0; k < 4; ++k) add(k, grey[i + k], place);
  for (; i < n; ++i) add(0, grey[i], place++);
  // the k-th lane lies k farther along
  const double all = (sum[0] + sum[1]) + (sum[2] + sum[3]), count = static_cast<double>(n);
  const double along = (moment[0] + moment[1]) + (moment[2] + moment[3]) + sum[1] + 2 * sum[2] + 3 * sum[3];
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
  const double sum_yy = n * (first * first + first * last + last * last) / 3 + n * (last - first) / 6;
  if (t.n == 0) t.reference = grey[r.top];
  t.n += n;
  t.x += n * x;
  t.y += sum_y;
  t.xx += n * x * x;
  t.yy += sum_yy;
  t.xy += x * sum_y;
  add_grey(grey + r.top, x, first, static_cast<size_t>(r.end - r.top), t.reference, t);
  ++t.runs;
  t.left = std::min(t.left, r.col);
  t.right = std::max(t.right, r.col);
  t.top = std::min(t.top, r.top);
  t.bottom = std::max(t.bottom, r.end - 1);
}

// Overlaps of a run with those of the same label one column to the left, straight and shifted by a row.
inline void link_columns(const LabelRun* before, const LabelRun* before_end, const LabelRun* now, const LabelRun* now_end,
                         std::vector<Tally>& tally) {
  for (; now != now_end; ++now) {
    while (before != before_end && before->run.end < now->run.top) ++before;
    Tally& t = tally[static_cast<size_t>(now->label)];
    for (const LabelRun* b = before; b != before_end && b->run.top <= now->run.end; ++b) {
      if (b->label != now->label) continue;
      auto common = [&](int by) {
        return std::max(0, std::min(now->run.end, b->run.end + by) - std::max(now->run.top, b->run.top + by));
      };
      t.overlap += common(0);
      t.overlap_up += common(1);
      t.overlap_down += common(-1);
      ++t.links;
    }
  }
}

// Crofton's formula over four directions: the length of a curve from the number of times it is
// entered by parallel lines (Ohser & Muecklich 2000, ch. 4). Diagonal lines of non-square
// pixels are weighted by the angle they stand for.
inline double crofton(const Tally& t, double sx, double sy) {
  const double pi = 3.14159265358979323846, diagonal = std::atan2(sy, sx);
  const double across = diagonal / pi, down = (pi / 2 - diagonal) / pi, slanted = 0.25;
  const double spacing = sx * sy / std::hypot(sx, sy);
  return pi * (across * sy * (t.n - t.overlap) + down * sx * static_cast<double>(t.runs) +
               slanted * spacing * ((t.n - t.overlap_up) + (t.n - t.overlap_down)));
}

// Degrees counter-clockwise as seen, 0 to 180, of a direction in radians; y grows downward.
inline double angle_as_seen(double radians) {
  double angle = -radians * 180 / 3.14159265358979323846;
  while (angle < 0) angle += 180;
  while (angle >= 180) angle -= 180;
  return angle;
}

inline void finish_ellipse(const Tally& t, double sx, double sy, Measures& m) {
  const double cx = t.x / t.n, cy = t.y / t.n;
  const double xx = (t.xx / t.n - cx * cx + 1.0 / 12) * sx * sx;  // 1/12: a pixel's own extent
  const double yy = (t.yy / t.n - cy * cy + 1.0 / 12) * sy * sy;
  const double xy = (t.xy / t.n - cx * cy) * sx * sy;
  const double spread = std::hypot(xx - yy, 2 * xy);
  m.ellipse_major = 4 * std::sqrt((xx + yy + spread) / 2);
  m.ellipse_minor = 4 * std::sqrt(std::max(0.0, (xx + yy - spread) / 2));
  // y grows downward, so the sign turns the angle counter-clockwise as seen
  double angle = -0.5 * std::atan2(2 * xy, xx - yy) * 180 / 3.14159265358979323846;
  if (angle < 0) angle += 180;
  m.orientation = spread <= 1e-9 * (xx + yy) || angle >= 180 ? 0 : angle;
}

// The first and last of an object's points on each of a row of upright lines, half a pixel apart, from left to right.
class Lines {
 public:
  void start(std::int32_t left, size_t columns) {
    left_ = left;
    span_.assign(2 * columns + 1, {INT32_MAX, INT32_MIN});
  }
  // in half pixels
  void add(std::int32_t line, std::int32_t low, std::int32_t high) {
    std::pair<std::int32_t, std::int32_t>& s = span_[static_cast<size_t>(line)];
    s.first = std::min(s.first, low);
    s.second = std::max(s.second, high);
  }
  // Points sorted by place, as the hull wants them.
  const std::vector<Point>& points(double sx, double sy) {
    points_.clear();
    for (size_t k = 0; k < span_.size(); ++k) {
      if (span_[k].first > span_[k].second) continue;
      const double x = (left_ + static_cast<double>(k) / 2) * sx;
      points_.push_back({x, span_[k].first * 0.5 * sy});
      if (span_[k].second > span_[k].first) points_.push_back({x, span_[k].second * 0.5 * sy});
    }
    return points_;
  }

 private:
  std::int32_t left_ = 0;
  std::vector<std::pair<std::int32_t, std::int32_t>> span_;
  std::vector<Point> points_;
};

// Hull from the ends of the object's runs. Lengths are taken over the middles of pixel edges (unbiased
// for slanted outlines, exact for upright ones), the area over pixel corners (never below the object's).
inline void finish_hull(const Run* run, const Run* end, double sx, double sy, Lines& lines, Measures& m) {
  const std::int32_t left = run->col;
  const size_t columns = static_cast<size_t>((end - 1)->col - left + 1);
  auto each_column = [&](auto use) {
    for (const Run* first = run; first != end;) {
      const std::int32_t top = first->top, x = first->col;
      std::int32_t bottom = first->end;
      for (; first != end && first->col == x; ++first) bottom = std::max(bottom, first->end);
      use(2 * (x - left), 2 * top, 2 * bottom);
    }
  };
  lines.start(left, columns);
  each_column([&](std::int32_t x, std::int32_t top, std::int32_t bottom) {
    lines.add(x, top + 1, bottom - 1);
    lines.add(x + 1, top, bottom);
    lines.add(x + 2, top + 1, bottom - 1);
  });
  const std::vector<Point> hull = convex_hull(lines.points(sx, sy));
  const Calipers c = calipers(hull);
  m.feret_max = c.max;
  m.feret_min = c.min;
  m.feret_max_angle = angle_as_seen(c.max_angle);
  m.feret_min_angle = angle_as_seen(c.min_angle);
  const Box box = smallest_box(hull);
  m.smallest_box_length = box.length;
  m.smallest_box_width = box.width;
  m.hull_perimeter = hull_perimeter(hull);
  lines.start(left, columns);
  each_column([&](std::int32_t x, std::int32_t top, std::int32_t bottom) {
    lines.add(x, top, bottom);
    lines.add(x + 2, top, bottom);
  });
  m.hull_area = hull_area(convex_hull(lines.points(sx, sy)));
}

inline void finish_grey(const Tally& t, Measures& m) {
  const double mean = t.grey / t.n;
  m.grey_mean = t.reference + mean;
  m.grey_sum = t.n * m.grey_mean;
  m.grey_x = (m.grey_sum != 0 ? t.grey_x / m.grey_sum : t.x / t.n) + 0.5;
  m.grey_y = (m.grey_sum != 0 ? t.grey_y / m.grey_sum : t.y / t.n) + 0.5;
  m.grey_sd = t.n > 1 ? std::sqrt(std::max(0.0, (t.grey2 - t.n * mean * mean) / (t.n - 1))) : 0;
  m.grey_min = t.grey_min;
  m.grey_max = t.grey_max;
}

inline Measures finish(const Tally& t, const Run* run, const Run* run_end, Plane<const int> labels, double sx, double sy, Lines& lines) {
  Measures m;
  if (t.n == 0) return m;
  m.pixels = t.n;
  m.x = t.x / t.n + 0.5;
  m.y = t.y / t.n + 0.5;
  m.area = t.n * sx * sy;
  m.perimeter = crofton(t, sx, sy);
  m.left = t.left;
  m.top = t.top;
  m.extent_x = (t.right - t.left + 1) * sx;
  m.extent_y = (t.bottom - t.top + 1) * sy;
  m.holes = static_cast<double>(1 - (t.runs - t.links));  // Euler number of the graph of runs
  m.on_edge = t.left == 0 || t.top == 0 || static_cast<size_t>(t.right) + 1 == labels.cols ||
              static_cast<size_t>(t.bottom) + 1 == labels.rows;
  finish_ellipse(t, sx, sy, m);
  finish_hull(run, run_end, sx, sy, lines, m);
  finish_grey(t, m);
  return m;
}

// Element k of the result belongs to label k + 1.
inline std::vector<Measures> measure(Plane<const int> labels, Plane<const double> grey, int count, double sx, double sy) {
  std::vector<Tally> tally(static_cast<size_t>(count) + 1);
  std::vector<LabelRun> runs;
  size_t before = 0;
  for (size_t x = 0; x < labels.cols; ++x) {
    const size_t now = runs.size();
    label_runs(labels, x, runs);
    const double* g = grey.col(x);
    for (size_t i = now; i < runs.size(); ++i) add_run(runs[i].run, g, tally[static_cast<size_t>(runs[i].label)]);
    link_columns(runs.data() + before, runs.data() + now, runs.data() + now, runs.data() + runs.size(), tally);
    before = now;
  }
  std::vector<Run> all(runs.size());
  std::vector<int> object(runs.size());
  for (size_t i = 0; i < runs.size(); ++i) {
    all[i] = runs[i].run;
    object[i] = runs[i].label;
  }
  std::vector<size_t> start;
  const std::vector<Run> grouped = by_object(all, object, count, start);
  Lines lines;
  std::vector<Measures> out(static_cast<size_t>(count));
  for (size_t k = 1; k <= static_cast<size_t>(count); ++k) {
    out[k - 1] = finish(tally[k], grouped.data() + start[k], grouped.data() + start[k + 1], labels, sx, sy, lines);
  }
  return out;
}

}  // namespace bm
