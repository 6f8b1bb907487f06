// Paths across a picture: straight and round pieces one after the other, with a width across.
// Places are in pixels along x; those along y are times the height of a pixel over its width, so
// that lengths and angles are true.
#pragma once
#include <algorithm>
#include <cmath>
#include <cstddef>
#include <vector>

namespace bm {

constexpr double half_circle = 3.14159265358979323846;

struct PathPlace {
  double x, y, dx, dy;  // a point, and the direction of the path there
};

// A line from (x, y) along (dx, dy), or an arc round (x, y) that begins at an angle (radians,
// counter-clockwise as seen) and goes counter-clockwise (`side` 1) or clockwise (-1).
struct Piece {
  bool round;
  double x, y, dx, dy, radius, angle, side, length;

  PathPlace at(double t) const {
    if (!round) return {x + t * dx, y + t * dy, dx, dy};
    const double a = angle + side * t / radius, c = std::cos(a), s = std::sin(a);
    return {x + radius * c, y - radius * s, -side * s, -side * c};
  }
  // Position along the piece and across it (to the right as it runs) of a point; on an arc the
  // position next to `near`.
  void locate(double px, double py, double near, double& along, double& across) const {
    const double u = px - x, v = py - y;
    if (!round) {
      along = u * dx + v * dy;
      across = v * dx - u * dy;
      return;
    }
    const double full = 2 * half_circle * radius;
    along = side * (std::atan2(-v, u) - angle) * radius;
    along -= full * std::round((along - near) / full);
    across = side * (std::sqrt(u * u + v * v) - radius);
  }
};

inline Piece line_piece(double x0, double y0, double x1, double y1) {
  const double length = std::hypot(x1 - x0, y1 - y0);
  return {false, x0, y0, (x1 - x0) / length, (y1 - y0) / length, 0, 0, 0, length};
}

inline Piece arc_piece(double x, double y, double radius, double from, double sweep) {
  return {true, x, y, 0, 0, radius, from, sweep < 0 ? -1.0 : 1.0, radius * std::fabs(sweep)};
}

struct Path {
  std::vector<Piece> pieces;
  double across = 1;
  bool closed = false;

  double length() const {
    double sum = 0;
    for (const Piece& p : pieces) sum += p.length;
    return sum;
  }
  // Positions before the start and beyond the end lie on the first and last piece; on a closed path
  // they go round.
  PathPlace at(double t) const {
    if (closed) t -= length() * std::floor(t / length());
    std::size_t k = 0;
    while (k + 1 < pieces.size() && t >= pieces[k].length) t -= pieces[k++].length;
    return pieces[k].at(t);
  }
};

}  // namespace bm
