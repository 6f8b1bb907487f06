// Convex hull (monotone chain, Andrew 1979) and its calipers.
#pragma once
#include <algorithm>
#include <cmath>
#include <cstddef>
#include <utility>
#include <vector>

namespace bm {

constexpr double pi = 3.14159265358979323846;

struct Point {
  double x, y;
};

// Lengths here are far from the ends of the scale; std::hypot, which cares for those, is three
// times slower.
inline double length_of(double x, double y) { return std::sqrt(x * x + y * y); }

// The order that hulls are made in.
inline bool left_of(const Point& a, const Point& b) {
  return a.x < b.x || (a.x == b.x && a.y < b.y);
}

// Square of the distance of p to the stretch from a to b.
inline double squared_to_stretch(const Point& a, const Point& b, const Point& p) {
  const double ux = b.x - a.x, uy = b.y - a.y, vx = p.x - a.x, vy = p.y - a.y;
  const double square = ux * ux + uy * uy;
  const double t = square > 0 ? std::clamp((ux * vx + uy * vy) / square, 0.0, 1.0) : 0;
  return (vx - t * ux) * (vx - t * ux) + (vy - t * uy) * (vy - t * uy);
}

inline double cross(const Point& o, const Point& a, const Point& b) {
  return (a.x - o.x) * (b.y - o.y) - (a.y - o.y) * (b.x - o.x);
}

// Points must come in the order of left_of(). Corners of the hull in one turn, collinear points
// left out.
inline std::vector<Point> convex_hull(const std::vector<Point>& p) {
  if (p.size() < 3) return p;
  std::vector<Point> hull(2 * p.size());
  std::size_t k = 0;
  for (std::size_t i = 0; i < p.size(); ++i) {
    while (k >= 2 && cross(hull[k - 2], hull[k - 1], p[i]) <= 0) --k;
    hull[k++] = p[i];
  }
  const std::size_t lower = k + 1;
  for (std::size_t i = p.size() - 1; i-- > 0;) {
    while (k >= lower && cross(hull[k - 2], hull[k - 1], p[i]) <= 0) --k;
    hull[k++] = p[i];
  }
  hull.resize(k - 1);
  return hull;
}

inline double hull_area(const std::vector<Point>& h) {
  double twice = 0;
  for (std::size_t i = 0; i < h.size(); ++i) {
    const Point& a = h[i];
    const Point& b = h[(i + 1) % h.size()];
    twice += a.x * b.y - b.x * a.y;
  }
  return std::fabs(twice) / 2;
}

inline double hull_perimeter(const std::vector<Point>& h) {
  double sum = 0;
  for (std::size_t i = 0; i < h.size(); ++i) {
    const Point& a = h[i];
    const Point& b = h[(i + 1) % h.size()];
    sum += length_of(b.x - a.x, b.y - a.y);
  }
  return sum;
}

// Smallest and greatest width, the directions they are taken in (radians from x toward y), and the
// pairs of corners that are farthest apart: more than one where shapes are regular.
struct Calipers {
  double min = 0, max = 0, min_angle = 0, max_angle = 0;
  std::vector<std::pair<std::size_t, std::size_t>> farthest;
};

// The smallest width over all directions lies across a side, the greatest is the distance of two
// corners; both are found in one turn round the hull (rotating calipers, Shamos 1978).
inline Calipers calipers(const std::vector<Point>& h) {
  const std::size_t n = h.size();
  Calipers c;
  auto longer = [&](std::size_t i, std::size_t j) {
    const double dx = h[j].x - h[i].x, dy = h[j].y - h[i].y, d = length_of(dx, dy);
    if (d < c.max * (1 - 1e-12)) return d;
    const std::pair<std::size_t, std::size_t> pair = std::minmax(i, j);
    if (d > c.max * (1 + 1e-12)) {
      c.max = d;
      c.max_angle = std::atan2(dy, dx);
      c.farthest.clear();
    }
    if (std::find(c.farthest.begin(), c.farthest.end(), pair) == c.farthest.end())
      c.farthest.push_back(pair);
    return d;
  };
  if (n < 3) {
    if (n == 2) longer(0, 1);
    return c;
  }
  c.min = -1;
  std::size_t j = 1;
  for (std::size_t i = 0; i < n; ++i) {
    const std::size_t next = (i + 1) % n;
    while (cross(h[i], h[next], h[(j + 1) % n]) > cross(h[i], h[next], h[j])) j = (j + 1) % n;
    const double width = cross(h[i], h[next], h[j]) / longer(i, next);
    if (c.min < 0 || width < c.min) {
      c.min = width;
      c.min_angle = std::atan2(h[next].x - h[i].x, h[i].y - h[next].y);  // across the side
    }
    longer(i, j);
    longer(next, j);
    // with two parallel sides both ends of the far one are antipodal
    longer(i, (j + 1) % n);
    longer(next, (j + 1) % n);
  }
  return c;
}

struct Box {
  double length = 0, width = 0;  // longer and shorter side
  double angle = 0;              // across the width, radians from x toward y
};

// The box of least area round a hull has a side along one of the hull's (Freeman & Shapira 1975).
// The corners farthest along, against and across a side move on round the hull as the side does
// (rotating calipers, Toussaint 1983).
inline Box smallest_box(const std::vector<Point>& h) {
  const std::size_t n = h.size();
  Box best;
  if (n == 2) best.length = length_of(h[1].x - h[0].x, h[1].y - h[0].y);
  if (n < 3) return best;
  double least = -1;
  std::size_t high = 1, far = 1, low = 0;
  for (std::size_t i = 0; i < n; ++i) {
    const Point &a = h[i], &b = h[(i + 1) % n];
    const double side = length_of(b.x - a.x, b.y - a.y), ux = (b.x - a.x) / side,
                 uy = (b.y - a.y) / side;
    auto along = [&](std::size_t k) { return (h[k % n].x - a.x) * ux + (h[k % n].y - a.y) * uy; };
    auto across = [&](std::size_t k) { return (h[k % n].y - a.y) * ux - (h[k % n].x - a.x) * uy; };
    if (high < i + 1) high = i + 1;
    while (high < i + n && along(high + 1) > along(high)) ++high;
    if (far < high) far = high;
    while (far < i + n && across(far + 1) > across(far)) ++far;
    if (low < far) low = far;
    while (low < i + n && along(low + 1) < along(low)) ++low;
    const double length = along(high) - along(low), width = across(far), area = length * width;
    if (least < 0 || area < least) {
      least = area;
      best = {std::max(length, width), std::min(length, width),
              width <= length ? std::atan2(ux, -uy) : std::atan2(uy, ux)};
    }
  }
  return best;
}

}  // namespace bm
