// Where the two sides of an object lie between which its width is smallest. A hull rests on the
// points that stand out most, on either side, so that noise makes every width too large; a side is
// where its points lie on average, if it is flat, or the top of the parabola through them.
#pragma once
#include <algorithm>
#include <cmath>
#include <cstddef>
#include <vector>

#include "../measures/hull.h"

namespace bm {

// A point of a side: how far along it, and how far below the point that stands out most.
struct SidePoint {
  double along, depth;
};

// Points at most `band` below the one farthest along (nx, ny), in order along the side, without the
// tenth at either end, where corners may lie. Empty where they are few or not of one side.
inline std::vector<SidePoint> side_points(const std::vector<Point>& outline, double nx, double ny,
                                          double band) {
  double farthest = outline[0].x * nx + outline[0].y * ny;
  for (const Point& p : outline) farthest = std::max(farthest, p.x * nx + p.y * ny);
  std::vector<SidePoint> side;
  for (const Point& p : outline) {
    const double depth = farthest - (p.x * nx + p.y * ny);
    if (depth <= band) side.push_back({p.y * nx - p.x * ny, depth});
  }
  std::sort(side.begin(), side.end(),
            [](const SidePoint& a, const SidePoint& b) { return a.along < b.along; });
  for (std::size_t i = 1; i < side.size(); ++i)
    if (side[i].along - side[i - 1].along > 3 * band) return {};
  const double from = side.front().along, length = side.back().along - from;
  if (length < 8 * band) return {};
  side.erase(std::remove_if(side.begin(), side.end(),
                            [&](const SidePoint& p) {
                              const double share = (p.along - from) / length;
                              return share < 0.1 || share > 0.9;
                            }),
             side.end());
  return side;
}

// How far below the point that stands out most the side lies, from a parabola through its points.
inline double side_depth(const std::vector<SidePoint>& side) {
  const std::size_t n = side.size();
  if (n < 8) return 0;
  const double middle = (side.front().along + side.back().along) / 2,
               half = (side.back().along - side.front().along) / 2;
  // over (-1, 1) the polynomials 1, t and t^2 - q, made orthogonal on these points
  double st = 0, st2 = 0, sd = 0;
  for (const SidePoint& p : side) st += (p.along - middle) / half / static_cast<double>(n);
  auto t_of = [&](const SidePoint& p) { return (p.along - middle) / half - st; };
  for (const SidePoint& p : side) {
    st2 += t_of(p) * t_of(p);
    sd += p.depth;
  }
  double st3 = 0;
  for (const SidePoint& p : side) st3 += t_of(p) * t_of(p) * t_of(p);
  const double count = static_cast<double>(n), q = st2 / count, r = st3 / st2, mean = sd / count;
  auto u_of = [&](double t) { return t * t - r * t - q; };
  double b = 0, c = 0, su2 = 0;
  for (const SidePoint& p : side) {
    const double u = u_of(t_of(p));
    b += t_of(p) * p.depth / st2;
    c += u * p.depth;
    su2 += u * u;
  }
  c /= su2;
  double misfit = 0;
  for (const SidePoint& p : side) {
    const double off = p.depth - mean - b * t_of(p) - c * u_of(t_of(p));
    misfit += off * off;
  }
  // neighbouring points hang together by fours: a bend of less than three deviations is noise
  if (c <= 0 || c * c * su2 < 9 * 4 * misfit / count) return mean;
  const double top = std::clamp((r - b / c) / 2, -1.0, 1.0);
  return std::max(0.0, mean + b * top + c * u_of(top));
}

// The width `across` a direction (degrees, as seen), between the sides instead of the points that
// stand out.
inline double width_of_sides(const std::vector<Point>& outline, double across, double degrees,
                             double pixel) {
  if (outline.size() < 16) return across;
  const double angle = -degrees * pi / 180, nx = std::cos(angle), ny = std::sin(angle);
  return across - side_depth(side_points(outline, nx, ny, pixel)) -
         side_depth(side_points(outline, -nx, -ny, pixel));
}

}  // namespace bm
