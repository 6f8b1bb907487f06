// All measures of all objects of a label picture, from the runs of each.
// Lengths and areas are in units of the pixel size (sx, sy) given.
#pragma once
#include <algorithm>
#include <cmath>
#include <cstdint>
#include <limits>
#include <vector>

#include "digital_hull.h"
#include "../objects/label_runs.h"
#include "../common/parallel.h"
#include "../common/speed.h"
#include "tally.h"
#include "tip.h"

namespace bm {

// Lengths and areas of an object's hull.
struct HullMeasures {
  double feret_max = 0, feret_min = 0, feret_max_angle = 0, feret_min_angle = 0, hull_perimeter = 0,
         hull_area = 0;
  double smallest_box_length = 0, smallest_box_width = 0, smallest_box_angle = 0;  // of the width
};

struct Measures : HullMeasures {
  double pixels = 0, x = 0, y = 0;  // count; centroid in pixels from the outer corner
  double area = 0, perimeter = 0;
  double ellipse_major = 0, ellipse_minor = 0, orientation = 0;
  double left = 0, top = 0, extent_x = 0, extent_y = 0;  // upright box: corner in pixels, sides
  double grey_mean = 0, grey_sd = 0, grey_min = 0, grey_max = 0, grey_sum = 0;
  double grey_x = 0, grey_y = 0;  // centroid weighted by grey, in pixels
  double holes = 0;
  bool on_edge = false;
};

// How often parallel lines through pixel centres enter the object, from its pixels whose neighbour
// one and two steps back along the line is in it as well. A line through a corner often passes
// between two centres and misses it: twice the count at one step less that at two (Richardson 1911)
// makes good for that, so that a chord of a single pixel counts for 3/2.
inline double chords(double n, const double (&in_both)[2]) {
  return 2 * (n - in_both[0]) - (n - in_both[1]) / 2;
}

// Crofton's formula over four directions: the length of a curve from the number of times it is
// entered by parallel lines (Ohser & Muecklich 2000, ch. 4). Diagonal lines of non-square
// pixels are weighted by the angle they stand for.
inline double crofton(const Tally& t, double sx, double sy) {
  const double diagonal = std::atan2(sy, sx);
  const double across = diagonal / pi, down = (pi / 2 - diagonal) / pi, slanted = 0.25;
  const double spacing = sx * sy / std::hypot(sx, sy);
  return pi * (across * sy * chords(t.n, t.left_of) + down * sx * chords(t.n, t.above) +
               slanted * spacing * (chords(t.n, t.upper_left) + chords(t.n, t.lower_left)));
}

// Degrees counter-clockwise as seen, 0 to 180, of a direction in radians; y grows downward.
inline double angle_as_seen(double radians) {
  double angle = -radians * 180 / pi;
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
  double angle = -0.5 * std::atan2(2 * xy, xx - yy) * 180 / pi;
  if (angle < 0) angle += 180;
  m.orientation = spread <= 1e-9 * (xx + yy) || angle >= 180 ? 0 : angle;
}

// `perimeter`: of the object. That of its hull is no longer, and none is longer than pi times the
// greatest width.
inline void finish_hull(const std::vector<Point>& hull, double perimeter, double pixel,
                        const TipRule& tips, HullMeasures& m) {
  const Calipers c = calipers(hull);
  const double length = hull_perimeter(hull);
  m.hull_area = hull_area(hull);
  m.feret_max = greatest_width(hull, c, std::min(length, perimeter) / pi, pixel, tips);
  m.hull_perimeter = std::min(length, pi * m.feret_max);
  m.feret_min = c.min;
  m.feret_max_angle = angle_as_seen(c.max_angle);
  m.feret_min_angle = angle_as_seen(c.min_angle);
  const Box box = smallest_box(hull);
  m.smallest_box_length = box.length;
  m.smallest_box_width = box.width;
  m.smallest_box_angle = angle_as_seen(box.angle);
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

// Where the first pixel of a window lies in the picture.
struct Origin {
  std::int32_t x = 0, y = 0;
};

// `own`: the runs of an object, which are moved to where its upright box begins: sums of large
// coordinates would lose digits, and differ from place to place. Places
// count from where the picture does.
inline Measures measure_one(std::vector<Run>& own, Plane<const int> labels,
                            Plane<const double> grey, double sx, double sy, Origin origin,
                            DigitalHull& hull) {
  std::int32_t left = own[0].col, top = own[0].top;
  for (const Run& r : own) top = std::min(top, r.top);
  for (Run& r : own) r = {r.col - left, r.top - top, r.end - top};
  const Run *run = own.data(), *end = run + own.size();
  const Plane<const double> there{grey.col(static_cast<std::size_t>(left)) + top, grey.rows,
                                  grey.cols - static_cast<std::size_t>(left)};
  Measures m;
  const Tally t = tally(run, end, there);
  m.pixels = t.n;
  m.left = left + origin.x;
  m.top = top + origin.y;
  m.x = t.x / t.n + 0.5 + m.left;
  m.y = t.y / t.n + 0.5 + m.top;
  m.area = t.n * sx * sy;
  m.perimeter = crofton(t, sx, sy);
  m.extent_x = (t.right + 1) * sx;
  m.extent_y = (t.bottom + 1) * sy;
  m.holes = static_cast<double>(1 - (t.runs - t.links));  // Euler number of the graph of runs
  m.on_edge = left == 0 || top == 0 ||
              static_cast<std::size_t>(left + t.right) + 1 == labels.cols ||
              static_cast<std::size_t>(top + t.bottom) + 1 == labels.rows;
  finish_ellipse(t, sx, sy, m);
  finish_hull(hull.of(run, end, sx, sy), m.perimeter, std::sqrt(sx * sy), mask_tips, m);
  finish_grey(t, m);
  m.grey_x += m.left;
  m.grey_y += m.top;
  return m;
}

// Element k of the result belongs to label k + 1. Objects are shared among threads.
template <class Interrupt>
std::vector<Measures> measure(Plane<const int> labels, Plane<const double> grey, int count,
                              double sx, double sy, Origin origin, int threads, Interrupt pause) {
  const Grouped<Run> objects = runs_by_object(labels, count, threads, pause);
  std::vector<Measures> out(static_cast<std::size_t>(count));
  over_columns(
      objects.label.size(), threads, 1,
      [&](std::size_t first, std::size_t last, auto stop) {
        DigitalHull hull;
        std::vector<Run> own;
        for (std::size_t i = first; i < last; ++i) {
          if (i % 1024 == 0) stop();
          const Run* all = objects.items.data();
          own.assign(all + objects.start[i], all + objects.start[i + 1]);
          out[static_cast<std::size_t>(objects.label[i]) - 1] =
              measure_one(own, labels, grey, sx, sy, origin, hull);
        }
      },
      pause);
  return out;
}

}  // namespace bm
