// Outlines to a fraction of a pixel: along the pixel edges of an object, every edge is moved to where the grey level
// crosses the threshold between the two pixel centres it parts (marching squares, Lorensen & Cline 1987, with the
// connectivity of the labels; sharp edges by the share their pixels are covered). Where it does not cross, at another object, a filled hole or the frame, the pixel edge stays.
#pragma once
#include <algorithm>
#include <cmath>
#include <vector>

#include "measure.h"
#include "outline.h"
#include "plane.h"

namespace bm {

struct Contour {
  int label;
  bool hole;
  std::vector<double> x, y;  // in pixels; the last joins the first
};

// One pass of smoothing along a ring: every point goes `share` of the way to the middle of its neighbours.
inline void relax(std::vector<double>& v, double share) {
  const size_t n = v.size();
  const double first = v[0];
  double before = v[n - 1];
  for (size_t i = 0; i < n; ++i) {
    const double here = v[i], after = i + 1 < n ? v[i + 1] : first;
    v[i] = here + share * ((before + after) / 2 - here);
    before = here;
  }
}

// Takes away the jitter of the pixel grid and leaves size and shape: smoothing, then as much the other way (Taubin 1995,
// "Curve and surface smoothing without shrinkage").
inline void smooth_ring(Contour& c) {
  if (c.x.size() < 8) return;
  for (int turn = 0; turn < 2; ++turn) {
    for (double share : {0.5, -0.53}) {
      relax(c.x, share);
      relax(c.y, share);
    }
  }
}

// What a straight line between two pixels is off where the edge is sharp. A pixel across a sharp edge shows the share it is
// covered by, so between an even object and an even ground (the next pixel on either side) the shares add up to the place of
// the edge; a straight line through them misses the middle by up to 0.09 pixels. Nothing where both pixels are neither object
// nor ground, as in blurred edges: there the line is right.
inline double bend(double object, double a, double b, double ground) {
  const double step = object - ground;
  if (step == 0 || (step > 0) != (a > b)) return 0;
  const double inner = (a - ground) / step, outer = (b - ground) / step;  // 1 is object, 0 ground
  if (inner < 0.4 || inner > 1.1 || outer < -0.1 || outer > 0.6) return 0;
  const double blurred = std::min(std::fabs(1 - inner), std::fabs(outer)) / 0.2;
  if (blurred >= 1) return 0;
  const double off = inner + outer - 0.5 - (inner - 0.5) / (inner - outer);
  return (1 - blurred) * std::clamp(off, -0.1, 0.1);
}

// each(contour) for every ring, in the order of the pixel outlines.
template <class Each>
void contours(Plane<const int> labels, Plane<const double> grey, double level, Each each) {
  // from the corner before a step: the object's pixel on the right hand, its neighbour on the left
  static const int in_x[4] = {0, 0, -1, -1}, in_y[4] = {-1, 0, 0, -1}, out_x[4] = {-1, 0, 0, -1}, out_y[4] = {-1, -1, 0, 0};
  RingWalk walk(labels);
  Contour ring;
  // share of the way from the object's pixel to its neighbour at which the level is crossed
  auto crossing = [&](ptrdiff_t x, ptrdiff_t y, ptrdiff_t nx, ptrdiff_t ny) {
    if (!walk.inside(nx, ny)) return 0.5;
    auto at = [&](ptrdiff_t i, ptrdiff_t j) { return grey.col(static_cast<size_t>(i))[j] - level; };
    const double a = at(x, y), b = at(nx, ny);
    if ((a > 0) == (b > 0)) return 0.5;
    const ptrdiff_t bx = 2 * x - nx, by = 2 * y - ny, fx = 2 * nx - x, fy = 2 * ny - y;
    const double share = a / (a - b);
    if (!walk.inside(bx, by) || !walk.inside(fx, fy)) return share;
    return std::clamp(share + bend(at(bx, by), a, b, at(fx, fy)), 0.0, 1.0);
  };
  walk.all(
      [&](int label) { ring = {label, false, {}, {}}; },
      [&](ptrdiff_t x, ptrdiff_t y, int direction, bool) {
        const ptrdiff_t ix = x + in_x[direction], iy = y + in_y[direction], ox = x + out_x[direction], oy = y + out_y[direction];
        const double share = crossing(ix, iy, ox, oy);
        ring.x.push_back(static_cast<double>(ix) + 0.5 + share * static_cast<double>(ox - ix));
        ring.y.push_back(static_cast<double>(iy) + 0.5 + share * static_cast<double>(oy - iy));
      },
      [&](bool hole) {
        ring.hole = hole;
        smooth_ring(ring);
        each(ring);
      });
}

struct ContourMeasures : HullMeasures {
  double area = 0, perimeter = 0;
};

// Area and length of a ring whose sides are taken as arcs: each bends by half the turns at its two ends, which makes a
// side of length L longer by L t^2 / 24 and adds L^2 t / 12 of area to it.
inline void ring_size(const Contour& c, double sx, double sy, double& area, double& length) {
  const size_t n = c.x.size();
  std::vector<double> side(n), heading(n);
  double twice = 0;
  for (size_t i = 0; i < n; ++i) {
    const size_t j = (i + 1) % n;
    const double x0 = c.x[i] * sx, y0 = c.y[i] * sy, x1 = c.x[j] * sx, y1 = c.y[j] * sy;
    twice += x0 * y1 - x1 * y0;
    side[i] = std::hypot(x1 - x0, y1 - y0);
    heading[i] = std::atan2(y1 - y0, x1 - x0);
  }
  const double pi = 3.14159265358979323846;
  std::vector<double> turn(n);  // where side i ends
  for (size_t i = 0; i < n; ++i) {
    const double t = heading[(i + 1) % n] - heading[i];
    turn[i] = t - 2 * pi * std::round(t / (2 * pi));
  }
  area = twice / 2;
  length = 0;
  for (size_t i = 0; i < n; ++i) {
    const double bend = (turn[i] + turn[(i + n - 1) % n]) / 2;
    // at sharp corners of the sample no arc is meant
    const double t = std::fabs(bend) < 0.6 ? bend : 0;
    area += side[i] * side[i] * t / 12;
    length += side[i] * (1 + t * t / 24);
  }
}

// Element k of the result belongs to label k + 1.
inline std::vector<ContourMeasures> measure_contours(Plane<const int> labels, Plane<const double> grey, double level, int count,
                                                     double sx, double sy) {
  std::vector<ContourMeasures> out(static_cast<size_t>(count));
  std::vector<std::vector<Point>> points(static_cast<size_t>(count));
  contours(labels, grey, level, [&](const Contour& c) {
    ContourMeasures& m = out[static_cast<size_t>(c.label) - 1];
    double area, length;
    ring_size(c, sx, sy, area, length);
    m.area += area;  // the object lies on the right hand, so holes count negative
    m.perimeter += length;
    if (c.hole) return;
    std::vector<Point>& p = points[static_cast<size_t>(c.label) - 1];
    for (size_t i = 0; i < c.x.size(); ++i) p.push_back({c.x[i] * sx, c.y[i] * sy});
  });
  for (size_t k = 0; k < out.size(); ++k) {
    std::vector<Point>& p = points[k];
    std::sort(p.begin(), p.end(), [](const Point& a, const Point& b) { return a.x < b.x || (a.x == b.x && a.y < b.y); });
    if (!p.empty()) finish_hull(convex_hull(p), std::sqrt(sx * sy), out[k]);
  }
  return out;
}

}  // namespace bm
