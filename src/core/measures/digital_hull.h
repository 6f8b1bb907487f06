// The convex hull of an object known by its pixel centres only. Each side of the hull of the
// centres is moved half-way to the next parallel line of the pixel grid: that line holds no centre
// of the object, so the edge lies before it. This is exact on average for straight sides of every
// direction, where hulls of pixel corners or edges are up to a pixel too wide.
#pragma once
#include <cmath>
#include <cstdint>
#include <cstdlib>
#include <numeric>
#include <vector>

#include "../common/bits.h"
#include "hull.h"

namespace bm {

// a x + b y <= h
struct HalfPlane {
  double a, b, h;
};

inline Point meet(const HalfPlane& p, const HalfPlane& q) {
  const double d = p.a * q.b - p.b * q.a;
  return {(p.h * q.b - p.b * q.h) / d, (p.a * q.h - p.h * q.a) / d};
}

class DigitalHull {
 public:
  // Corners in one turn, in the unit of (sx, sy). Runs must come column by column, and from top to
  // bottom within one.
  const std::vector<Point>& of(const Run* run, const Run* end, double sx, double sy) {
    std::int32_t low = run->top, high = low;
    centres_.clear();
    for (const Run* first = run; first != end;) {
      const std::int32_t x = first->col, top = first->top;
      std::int32_t bottom = first->end - 1;
      for (; first != end && first->col == x; ++first) bottom = first->end - 1;
      low = std::min(low, top);
      high = std::max(high, bottom);
      centres_.push_back({static_cast<double>(x), static_cast<double>(top)});
      if (bottom > top) centres_.push_back({static_cast<double>(x), static_cast<double>(bottom)});
    }
    planes(convex_hull(centres_), run->col, (end - 1)->col, low, high);
    cut();
    for (Point& p : corners_) p = {(p.x + 0.5) * sx, (p.y + 0.5) * sy};
    return corners_;
  }

 private:
  // Half-planes by the direction of their normals, beginning after the one to the left: the sides,
  // and the upright box of the pixels, which closes the ends of lines one pixel wide.
  void planes(const std::vector<Point>& hull, double left, double right, double top,
              double bottom) {
    const HalfPlane box[4] = {
        {0, -1, 0.5 - top}, {1, 0, right + 0.5}, {0, 1, bottom + 0.5}, {-1, 0, 0.5 - left}};
    planes_.clear();
    int upright = 0;
    for (std::size_t i = 0; hull.size() > 1 && i < hull.size(); ++i) {
      const Point &p = hull[i], &q = hull[(i + 1) % hull.size()];
      const long dx = static_cast<long>(q.x - p.x), dy = static_cast<long>(q.y - p.y);
      const double steps = static_cast<double>(std::gcd(std::labs(dx), std::labs(dy)));
      const double a = static_cast<double>(dy) / steps, b = -static_cast<double>(dx) / steps;
      const int turn = eighth(a, b);
      for (; 2 * upright + 1 < turn; ++upright) planes_.push_back(box[upright]);
      if (2 * upright + 1 == turn) ++upright;
      planes_.push_back({a, b, a * p.x + b * p.y + 0.5});
    }
    for (; upright < 4; ++upright) planes_.push_back(box[upright]);
  }

  // 0 between left and up, 1 up, 2 between up and right, ... 7 left (y grows downward).
  static int eighth(double a, double b) {
    if (b < 0) return a < 0 ? 0 : a == 0 ? 1 : 2;
    if (b == 0) return a > 0 ? 3 : 7;
    return a > 0 ? 4 : a == 0 ? 5 : 6;
  }

  // The polygon common to all half-planes, which come in turn.
  void cut() {
    std::size_t first = 0, n = 0;
    kept_.resize(planes_.size());
    auto beyond = [](const HalfPlane& p, const Point& at) {
      return p.a * at.x + p.b * at.y > p.h - 1e-9;
    };
    for (const HalfPlane& p : planes_) {
      while (n - first > 1 && beyond(p, meet(kept_[n - 2], kept_[n - 1]))) --n;
      while (n - first > 1 && beyond(p, meet(kept_[first], kept_[first + 1]))) ++first;
      kept_[n++] = p;
    }
    while (n - first > 2 && beyond(kept_[first], meet(kept_[n - 2], kept_[n - 1]))) --n;
    while (n - first > 2 && beyond(kept_[n - 1], meet(kept_[first], kept_[first + 1]))) ++first;
    corners_.clear();
    for (std::size_t i = first; i < n; ++i)
      corners_.push_back(meet(kept_[i], kept_[i + 1 < n ? i + 1 : first]));
  }

  std::vector<Point> centres_, corners_;
  std::vector<HalfPlane> planes_, kept_;
};

}  // namespace bm
