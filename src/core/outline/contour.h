// Outlines to a fraction of a pixel: along the pixel edges of an object, every edge is moved to
// where the grey level crosses the threshold between the two pixel centres it parts (marching
// squares, Lorensen & Cline 1987, with the connectivity of the labels; sharp edges by the share
// their pixels are covered). Where it does not cross, at another object, a filled hole or the
// frame, the pixel edge stays.
#pragma once
#include <algorithm>
#include <cmath>
#include <cstdint>
#include <vector>

#include "corner.h"
#include "../measures/hull.h"
#include "../objects/outline.h"
#include "../common/parallel.h"
#include "../common/plane.h"

namespace bm {

// One pass of smoothing along a ring: every point goes `share` of the way to the middle of its
// neighbours.
inline void relax(std::vector<Point>& ring, double share) {
  const Point first = ring[0];
  Point before = ring.back();
  for (std::size_t i = 0; i < ring.size(); ++i) {
    const Point here = ring[i], &after = i + 1 < ring.size() ? ring[i + 1] : first;
    ring[i].x += share * ((before.x + after.x) / 2 - here.x);
    ring[i].y += share * ((before.y + after.y) / 2 - here.y);
    before = here;
  }
}

// Takes away the jitter of the pixel grid and leaves size and shape: smoothing, then as much the
// other way (Taubin 1995, "Curve and surface smoothing without shrinkage").
inline void smooth_ring(std::vector<Point>& ring) {
  for (int turn = 0; turn < 2; ++turn) {
    for (double share : {0.5, -0.53}) relax(ring, share);
  }
}

// A pixel shows the mean over its own area, and between pixels straight lines are drawn: an outline
// lies as if its edge had been blurred a little along itself, too far in on bends by half the
// variance of that blur over their radius. A closed ring loses pi times the variance of its area,
// whatever its shape. In square pixels: 1/12 by the pixel's area, the rest by the straight lines
// (discs of radius 5 to 60).
constexpr double pixel_blur = 0.155;

inline void undo_blur(std::vector<Point>& ring) {
  const std::size_t n = ring.size();
  const Point first = ring[0];
  Point before = ring.back();
  for (std::size_t i = 0; i < n; ++i) {
    const Point here = ring[i], after = i + 1 < n ? ring[i + 1] : first;
    const double ux = here.x - before.x, uy = here.y - before.y, vx = after.x - here.x,
                 vy = after.y - here.y;
    const double way = length_of(ux, uy) + length_of(vx, vy), chord = length_of(ux + vx, uy + vy);
    before = here;
    if (way < 0.5 || chord < 0.1) continue;
    const double curvature = 2 * std::atan2(ux * vy - uy * vx, ux * vx + uy * vy) / way,
                 step = pixel_blur / 2 * curvature / chord;
    ring[i].x += step * (uy + vy);
    ring[i].y -= step * (ux + vx);
  }
}

// The same for the blur of the picture, of this variance in square pixels. It is wider than a
// pixel, and so is the stretch that the bend is read from: what is shorter is noise. A bend
// tighter than the blur is wide leaves no trace of how tight it was, and is moved as one as wide.
inline void undo_wide_blur(std::vector<Point>& ring, double variance) {
  const std::vector<Point> seen = ring;
  const std::size_t n = seen.size(),
                    reach = std::clamp<std::size_t>(
                        static_cast<std::size_t>(std::lround(2 * std::sqrt(variance)) + 1), 1,
                        n / 6);
  const double tightest = 1 / std::sqrt(variance);
  for (std::size_t i = 0; i < n; ++i) {
    const Point &here = seen[i], &before = seen[(i + n - reach) % n],
                &after = seen[(i + reach) % n];
    const double ux = here.x - before.x, uy = here.y - before.y, vx = after.x - here.x,
                 vy = after.y - here.y;
    const double way = length_of(ux, uy) + length_of(vx, vy), chord = length_of(ux + vx, uy + vy);
    if (chord < 0.1) continue;
    const double turn = std::atan2(ux * vy - uy * vx, ux * vx + uy * vy),
                 curvature = std::clamp(2 * turn / way, -tightest, tightest),
                 step = variance / 2 * curvature / chord;
    ring[i].x += step * (uy + vy);
    ring[i].y -= step * (ux + vx);
  }
}

// What a straight line between two pixels is off where the edge is sharp. A pixel across a sharp
// edge shows the share it is covered by, so between an even object and an even ground (the next
// pixel on either side) the shares add up to the place of the edge; a straight line through them
// misses the middle by up to 0.09 pixels. Nothing where both pixels are neither object nor ground,
// as in blurred edges: there the line is right.
inline double bend(double object, double a, double b, double ground) {
  const double step = object - ground;
  if (step == 0 || (step > 0) != (a > b)) return 0;
  const double inner = (a - ground) / step, outer = (b - ground) / step;  // 1 is object, 0 ground
  if (!(inner >= 0.4 && inner <= 1.1 && outer >= -0.1 && outer <= 0.6)) return 0;
  const double blurred = std::min(std::fabs(1 - inner), std::fabs(outer)) / 0.2;
  if (blurred >= 1) return 0;
  const double off = inner + outer - 0.5 - (inner - 0.5) / (inner - outer);
  return (1 - blurred) * std::clamp(off, -0.1, 0.1);
}

// A pixel edge of an object: the corner it begins at, and its direction (outline.h).
struct PixelEdge {
  std::int32_t x, y, direction;
};

// The pixel edges of all rings, in the order of the pixel outlines.
struct PixelRings {
  std::vector<PixelEdge> edges;
  std::vector<int> label;
  std::vector<unsigned char> hole;
  std::vector<std::size_t> start{0};  // ring k has edges start[k] .. start[k + 1] - 1
  const PixelEdge& first(std::size_t k) const { return edges[start[k]]; }
};

inline PixelRings pixel_rings(Plane<const int> labels) {
  PixelRings rings;
  RingWalk(labels).all([&](int label) { rings.label.push_back(label); },
                       [&](ptrdiff_t x, ptrdiff_t y, int direction, bool) {
                         rings.edges.push_back({static_cast<std::int32_t>(x),
                                                static_cast<std::int32_t>(y), direction});
                       },
                       [&](bool hole) {
                         rings.hole.push_back(hole);
                         rings.start.push_back(rings.edges.size());
                       });
  return rings;
}

// Draws rings through the grey at `level`, as if a blur of variance `blur` had not been.
class Contours {
 public:
  Contours(Plane<const int> labels, Plane<const double> grey, double level, double blur)
      : labels_(labels), grey_(grey), level_(level), blur_(blur) {}

  // Points of ring k in pixels, counted from the corner that `from` begins at, in one turn; the
  // last joins the first.
  std::vector<Point> ring(const PixelRings& rings, std::size_t k, const PixelEdge& from) {
    // from the corner before an edge: the object's pixel on the right hand, its neighbour on the
    // left
    static const int in_x[4] = {0, 0, -1, -1}, in_y[4] = {-1, 0, 0, -1}, out_x[4] = {-1, 0, 0, -1},
                     out_y[4] = {-1, -1, 0, 0};
    const Seen<double> grey(grey_, from.x, from.y);
    std::vector<Point> points;
    points.reserve(rings.start[k + 1] - rings.start[k]);
    for (std::size_t i = rings.start[k]; i < rings.start[k + 1]; ++i) {
      const PixelEdge& e = rings.edges[i];
      const ptrdiff_t x = e.x - from.x, y = e.y - from.y;
      const ptrdiff_t ix = x + in_x[e.direction], iy = y + in_y[e.direction];
      const ptrdiff_t ox = x + out_x[e.direction], oy = y + out_y[e.direction];
      const double share = crossing(grey, ix, iy, ox, oy);
      points.push_back({static_cast<double>(ix) + 0.5 + share * static_cast<double>(ox - ix),
                        static_cast<double>(iy) + 0.5 + share * static_cast<double>(oy - iy)});
    }
    if (points.size() >= 8) {
      smooth_ring(points);
      undo_blur(points);
      corners_.sharpen(points, rings.label[k], Seen<int>(labels_, from.x, from.y), grey);
      if (blur_ > 0) undo_wide_blur(points, blur_);
    }
    for (Point& p : points) {  // nothing is known beyond the frame
      p.x = std::clamp(p.x, static_cast<double>(grey.left), static_cast<double>(grey.right));
      p.y = std::clamp(p.y, static_cast<double>(grey.top), static_cast<double>(grey.bottom));
    }
    return points;
  }

 private:
  // Share of the way from the object's pixel to its neighbour at which the level is crossed.
  double crossing(const Seen<double>& grey, ptrdiff_t x, ptrdiff_t y, ptrdiff_t nx,
                  ptrdiff_t ny) const {
    if (!grey.holds(nx, ny)) return 0.5;
    const double a = grey.at(x, y) - level_, b = grey.at(nx, ny) - level_;
    if (!(a * b <= 0) || a == b) return 0.5;  // a pixel may lie on the level itself
    const double share = a / (a - b);
    const ptrdiff_t bx = 2 * x - nx, by = 2 * y - ny, fx = 2 * nx - x, fy = 2 * ny - y;
    if (!grey.holds(bx, by) || !grey.holds(fx, fy)) return share;
    return std::clamp(share + bend(grey.at(bx, by) - level_, a, b, grey.at(fx, fy) - level_), 0.0,
                      1.0);
  }

  Plane<const int> labels_;
  Plane<const double> grey_;
  double level_, blur_;
  Corners corners_;
};

// A ring, its points counted from the pixel corner (x, y), the same for all rings of an object.
struct Contour {
  int label;
  bool hole;
  std::vector<Point> points;
  std::int32_t x, y;
};

// All rings, in the order of the pixel outlines; they are shared among threads.
template <class Interrupt>
std::vector<Contour> contours(Plane<const int> labels, Plane<const double> grey, double level,
                              double blur, int threads, Interrupt pause) {
  const PixelRings rings = pixel_rings(labels);
  std::vector<Contour> out(rings.label.size());
  std::vector<std::size_t> base;  // where the first ring of a label is
  for (std::size_t k = 0; k < rings.label.size(); ++k) {
    const std::size_t label = static_cast<std::size_t>(rings.label[k]);
    if (label >= base.size()) base.resize(label + 1, SIZE_MAX);
    if (base[label] == SIZE_MAX) base[label] = k;
  }
  over_columns(
      out.size(), threads, 1,
      [&](std::size_t first, std::size_t last, auto stop) {
        Contours draw(labels, grey, level, blur);
        for (std::size_t k = first; k < last; ++k) {
          if (k % 256 == 0) stop();
          const PixelEdge& from = rings.first(base[static_cast<std::size_t>(rings.label[k])]);
          out[k] = {rings.label[k], rings.hole[k] != 0, draw.ring(rings, k, from), from.x, from.y};
        }
      },
      pause);
  return out;
}

}  // namespace bm
