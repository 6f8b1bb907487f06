// The places where an outline turns inward, and the convex arcs between them. Where convex things
// touch or overlap, their common outline turns inward at both ends of the neck (concave points,
// Bai, Sun & Zhou 2009).
#pragma once
#include <algorithm>
#include <array>
#include <cmath>
#include <vector>

#include "../measures/hull.h"

namespace bm {

// Smallest inward turn that is taken for more than the roughness of an outline, and over how many
// pixels of the outline turns are smoothed before.
constexpr double least_turn = 18 * pi / 180, turn_blur = 1.5;

// A stretch of a ring between two notches, the places where it turns inward.
struct Arc {
  std::vector<Point> points;
  int from, to;  // notches at its ends, -1 where there are none
  bool hole;     // on the ring of a hole
};

inline std::vector<Point> sorted_points(std::vector<Point> p) {
  std::sort(p.begin(), p.end(), left_of);
  return p;
}

// Distance to the nearest side of a hull.
inline double to_sides(const std::vector<Point>& hull, const Point& p) {
  double least = 1e300;
  for (std::size_t i = 0; i < hull.size(); ++i) {
    const Point& next = hull[i + 1 < hull.size() ? i + 1 : 0];
    least = std::min(least, squared_to_stretch(hull[i], next, p));
  }
  return std::sqrt(least);
}

// Points at equal steps of about one pixel along a closed ring.
inline std::vector<Point> even_steps(const std::vector<Point>& ring) {
  const std::size_t n = ring.size();
  std::vector<double> way(n + 1, 0);
  for (std::size_t i = 0; i < n; ++i) {
    const Point &a = ring[i], &b = ring[i + 1 < n ? i + 1 : 0];
    way[i + 1] = way[i] + length_of(b.x - a.x, b.y - a.y);
  }
  const std::size_t steps = static_cast<std::size_t>(std::lround(way[n]));
  std::vector<Point> out;
  out.reserve(steps);
  std::size_t i = 0;
  for (std::size_t k = 0; k < steps; ++k) {
    const double at = way[n] * static_cast<double>(k) / static_cast<double>(steps);
    while (i + 1 < n && way[i + 1] <= at) ++i;
    const Point &a = ring[i], &b = ring[i + 1 < n ? i + 1 : 0];
    const double side = way[i + 1] - way[i], t = side > 0 ? (at - way[i]) / side : 0;
    out.push_back({a.x + t * (b.x - a.x), a.y + t * (b.y - a.y)});
  }
  return out;
}

// Turn at every point of a ring of even steps, smoothed along it; positive where it is convex.
inline std::vector<double> smoothed_turns(const std::vector<Point>& ring) {
  constexpr int reach = 5;
  const std::size_t n = ring.size();
  std::array<double, 2 * reach + 1> weight;
  double sum = 0;
  for (int k = -reach; k <= reach; ++k) {
    const double w = std::exp(-k * k / (2 * turn_blur * turn_blur));
    weight[static_cast<std::size_t>(k + reach)] = w;
    sum += w;
  }
  std::vector<Point> smooth(n, Point{0, 0});
  for (std::size_t i = 0; i < n; ++i) {
    for (std::size_t k = 0; k < weight.size(); ++k) {
      const Point& p = ring[(i + n + k - reach) % n];
      smooth[i].x += weight[k] / sum * p.x;
      smooth[i].y += weight[k] / sum * p.y;
    }
  }
  std::vector<double> turns(n);
  for (std::size_t i = 0; i < n; ++i) {
    const Point &a = smooth[(i + n - 1) % n], &b = smooth[i], &c = smooth[(i + 1) % n];
    const double ux = b.x - a.x, uy = b.y - a.y, vx = c.x - b.x, vy = c.y - b.y;
    turns[i] = std::atan2(ux * vy - uy * vx, ux * vx + uy * vy);
  }
  return turns;
}

// Indices of the sharpest points of all stretches that turn inward far enough. What turns less than
// `straight` a pixel over a few pixels is a side between two of them.
inline std::vector<std::size_t> inward_points(const std::vector<double>& turns) {
  constexpr double straight = 2 * pi / 180;
  constexpr int few = 3;
  const std::size_t n = turns.size();
  const auto begin = std::max_element(turns.begin(), turns.end());
  if (begin == turns.end() || *begin < -straight) return {};
  const std::size_t first = static_cast<std::size_t>(begin - turns.begin());
  std::vector<std::size_t> found;
  double inward = 0;
  int past = 0;
  std::size_t sharpest = first;
  auto close = [&]() {
    if (inward >= least_turn) found.push_back(sharpest);
    inward = 0;
  };
  for (std::size_t k = 0; k < n; ++k) {
    const std::size_t i = (first + k) % n;
    if (turns[i] < -straight) {
      if (inward == 0 || turns[i] < turns[sharpest]) sharpest = i;
      inward -= turns[i];
      past = 0;
    } else if (++past >= few) {
      close();
    }
  }
  close();
  return found;
}

// Adds the arcs of one ring, and the notches between them. An outer ring without notches is one
// arc; the ring of a hole with fewer than two is the edge of a hole within one object.
inline void add_arcs(const std::vector<Point>& ring, bool hole, std::vector<Arc>& arcs,
                     std::vector<Point>& notches) {
  const std::vector<Point> even = even_steps(ring);
  const std::size_t n = even.size();
  std::vector<std::size_t> ends =
      n < 12 ? std::vector<std::size_t>{} : inward_points(smoothed_turns(even));
  std::sort(ends.begin(), ends.end());
  if (ends.size() < 2) {
    if (!hole) arcs.push_back({even, -1, -1, false});
    return;
  }
  const int before = static_cast<int>(notches.size()), count = static_cast<int>(ends.size());
  for (int k = 0; k < count; ++k) {
    const int next = (k + 1) % count;
    const std::size_t from = ends[static_cast<std::size_t>(k)],
                      to = ends[static_cast<std::size_t>(next)];
    Arc arc{{}, before + k, before + next, hole};
    for (std::size_t i = from; i != to || arc.points.empty(); i = (i + 1) % n)
      arc.points.push_back(even[i]);
    arc.points.push_back(even[to]);
    arcs.push_back(std::move(arc));
    notches.push_back(even[from]);
  }
}

}  // namespace bm
