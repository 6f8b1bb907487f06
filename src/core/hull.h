// Convex hull (monotone chain, Andrew 1979) and its calipers.
#pragma once
#include <algorithm>
#include <cmath>
#include <cstddef>
#include <vector>

namespace bm {

struct Point {
  double x, y;
};

inline double cross(const Point& o, const Point& a, const Point& b) {
  return (a.x - o.x) * (b.y - o.y) - (a.y - o.y) * (b.x - o.x);
}

// Points must come sorted by x, then y. Corners of the hull in one turn, collinear points left out.
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
    sum += std::hypot(b.x - a.x, b.y - a.y);
  }
  return sum;
}

struct Calipers {
  double min, max;
};

// Smallest width over all directions (it lies along a side) and greatest distance of two corners,
// by one turn round the hull (rotating calipers, Shamos 1978).
inline Calipers calipers(const std::vector<Point>& h) {
  const std::size_t n = h.size();
  Calipers c{0, 0};
  auto dist = [&](std::size_t i, std::size_t j) { return std::hypot(h[i].x - h[j].x, h[i].y - h[j].y); };
  if (n < 3) {
    if (n == 2) c.max = dist(0, 1);
    return c;
  }
  c.min = -1;
  std::size_t j = 1;
  for (std::size_t i = 0; i < n; ++i) {
    const std::size_t next = (i + 1) % n;
    while (cross(h[i], h[next], h[(j + 1) % n]) > cross(h[i], h[next], h[j])) j = (j + 1) % n;
    const double width = cross(h[i], h[next], h[j]) / dist(i, next);
    if (c.min < 0 || width < c.min) c.min = width;
    c.max = std::max({c.max, dist(i, j), dist(next, j)});
    // with two parallel sides both ends of the far one are antipodal
    c.max = std::max({c.max, dist(i, (j + 1) % n), dist(next, (j + 1) % n)});
  }
  return c;
}

}  // namespace bm
