// The largest circle inside an object's sub-pixel outline: from the pixel that lies deepest its
// middle is moved, by steps that are halved, to where it is farthest from the outline. The frame is
// no edge of an object.
#pragma once
#include <algorithm>
#include <cmath>
#include <cstddef>
#include <cstdint>
#include <vector>

#include "contour.h"
#include "../objects/label.h"
#include "../common/plane.h"

namespace bm {

struct Segment {
  Point a, b;
};

inline double distance_to(const Segment& s, const Point& p) {
  return std::sqrt(squared_to_stretch(s.a, s.b, p));
}

inline double distance_to(const std::vector<Segment>& edges, const Point& p) {
  double least = distance_to(edges[0], p);
  for (const Segment& s : edges) least = std::min(least, distance_to(s, p));
  return least;
}

// Radius of the largest circle round a point not far from `start`, within the picture (its
// corners: `least`, `most`). Only edges that such a circle could touch are looked at.
inline double inscribed_radius(const std::vector<Segment>& outline, Point start, Point least,
                               Point most, double pixel) {
  if (outline.empty()) return 0;
  double radius = distance_to(outline, start);
  const double room = 2 * pixel;
  std::vector<Segment> near;
  for (const Segment& s : outline)
    if (distance_to(s, start) <= radius + 2 * room) near.push_back(s);
  const Point first = start;
  for (double step = pixel / 2; step > pixel / 256; step /= 2) {
    for (bool moved = true; moved;) {
      moved = false;
      for (int way = 0; way < 8; ++way) {
        const double angle = way * pi / 4;
        const Point there{start.x + step * std::cos(angle), start.y + step * std::sin(angle)};
        if (length_of(there.x - first.x, there.y - first.y) > room) continue;
        if (there.x < least.x || there.y < least.y || there.x > most.x || there.y > most.y)
          continue;
        const double found = distance_to(near, there);
        if (found > radius + 1e-12) {
          radius = found;
          start = there;
          moved = true;
        }
      }
    }
  }
  return radius;
}

// Diameters, element k that of label k + 1. `depth`: distance of every pixel to the ground, which
// says where to begin.
template <class Interrupt>
std::vector<double> inscribed_circles(Plane<const int> labels, Plane<const double> depth,
                                      Plane<const double> grey, double level, double blur,
                                      int count, double sx, double sy, Interrupt pause) {
  const std::size_t n = static_cast<std::size_t>(count);
  std::vector<double> deepest(n), out(n);
  std::vector<std::int32_t> col(n), row(n);  // of the deepest pixel
  for (std::size_t x = 0; x < labels.cols; ++x)
    for (std::size_t y = 0; y < labels.rows; ++y) {
      const int label = labels.col(x)[y];
      if (label <= 0) continue;
      const std::size_t k = static_cast<std::size_t>(label) - 1;
      if (!(depth.col(x)[y] > deepest[k])) continue;
      deepest[k] = depth.col(x)[y];
      col[k] = static_cast<std::int32_t>(x);
      row[k] = static_cast<std::int32_t>(y);
    }
  const PixelRings rings = pixel_rings(labels);
  std::vector<std::vector<Segment>> outline(n);
  std::vector<PixelEdge> from(n, {-1, -1, 0});  // where the first ring of each begins
  Contours draw(labels, grey, level, blur);
  const double right = static_cast<double>(labels.cols), bottom = static_cast<double>(labels.rows);
  for (std::size_t k = 0; k < rings.label.size(); ++k) {
    if (k % 256 == 0) pause();
    const std::size_t object = static_cast<std::size_t>(rings.label[k]) - 1;
    if (from[object].x < 0) from[object] = rings.first(k);
    const PixelEdge& base = from[object];
    // within a pixel of it: rings go round the corners of the picture
    auto on_frame = [&](const Point& p) {
      return std::min({p.x + base.x, p.y + base.y, right - base.x - p.x, bottom - base.y - p.y}) <=
             1;
    };
    const std::vector<Point> ring = draw.ring(rings, k, base);
    for (std::size_t i = 0; i < ring.size(); ++i) {
      const Point &a = ring[i], &b = ring[i + 1 < ring.size() ? i + 1 : 0];
      if (!on_frame(a) || !on_frame(b))
        outline[object].push_back({{a.x * sx, a.y * sy}, {b.x * sx, b.y * sy}});
    }
  }
  const double pixel = std::sqrt(sx * sy);
  for (std::size_t k = 0; k < n; ++k) {
    if (k % 64 == 0) pause();
    if (!(deepest[k] > 0)) continue;
    const PixelEdge& base = from[k];
    const Point start{(col[k] - base.x + 0.5) * sx, (row[k] - base.y + 0.5) * sy};
    const Point least{-base.x * sx, -base.y * sy},
        most{(right - base.x) * sx, (bottom - base.y) * sy};
    out[k] = 2 * inscribed_radius(outline[k], start, least, most, pixel);
  }
  return out;
}

}  // namespace bm
