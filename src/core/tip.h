// How far an outline reaches at its two farthest points. Pixels round tips off and add jitter, and a greatest width picks the
// jitter that adds; the areas cut off a little below a tip know of neither. There the area grows with the depth to the
// power 3/2 below a round end, 2 below a corner: fitted, and run back to where the area is nothing.
#pragma once
#include <algorithm>
#include <cmath>
#include <vector>

#include "hull.h"

namespace bm {

constexpr int tip_samples = 7;

// Depths below corner `tip` of a hull, along the direction (ex, ey) in which it lies farthest, at which the part cut off has
// 2/8, 3/8 ... 8/8 of `area`.
inline void depths_below(const std::vector<Point>& h, std::size_t tip, double ex, double ey, double area, double (&depth)[tip_samples]) {
  struct Side {
    std::size_t at;
    double depth, across, next_depth, next_across;
    double over(double d) const {
      return next_depth > depth ? across + (next_across - across) * (d - depth) / (next_depth - depth) : next_across;
    }
  };
  const std::size_t n = h.size();
  auto look = [&](Side& s, std::size_t next) {
    s.at = next;
    s.depth = s.next_depth;
    s.across = s.next_across;
    const double dx = h[next].x - h[tip].x, dy = h[next].y - h[tip].y;
    s.next_depth = std::max(s.depth, -(dx * ex + dy * ey));
    s.next_across = dy * ex - dx * ey;
  };
  Side one{tip, 0, 0, 0, 0}, other{tip, 0, 0, 0, 0};
  look(one, (tip + 1) % n);
  look(other, (tip + n - 1) % n);
  double from = 0, chord = 0, cut = 0;
  int k = 0;
  for (std::size_t turns = 0; turns < n && k < tip_samples; ++turns) {
    const double to = std::min(one.next_depth, other.next_depth), next_chord = std::fabs(one.over(to) - other.over(to));
    const double whole = cut + (to - from) * (chord + next_chord) / 2;
    const double slope = to > from ? (next_chord - chord) / (to - from) : 0;
    for (; k < tip_samples && area * (k + 2) / 8 <= whole; ++k) {
      const double rest = area * (k + 2) / 8 - cut;
      depth[k] = from + 2 * rest / (chord + std::sqrt(std::max(0.0, chord * chord + 2 * slope * rest)));
    }
    from = to;
    chord = next_chord;
    cut = whole;
    if (one.next_depth <= other.next_depth) look(one, (one.at + 1) % n); else look(other, (other.at + n - 1) % n);
  }
  for (; k < tip_samples; ++k) depth[k] = from;
}

// A straight line through the depths over (2/8, 3/8 ... 8/8) to the power `root`.
class TipLine {
 public:
  explicit TipLine(double root) {
    for (int k = 0; k < tip_samples; ++k) {
      x_[k] = std::pow((k + 2) / 8.0, root);
      mean_ += x_[k] / tip_samples;
    }
    for (double& x : x_) {
      x -= mean_;
      spread_ += x * x;
    }
  }
  // Its value at nothing, and how badly it fits.
  double start(const double (&depth)[tip_samples], double& misfit) const {
    double mean = 0, slope = 0;
    for (double d : depth) mean += d / tip_samples;
    for (int k = 0; k < tip_samples; ++k) slope += x_[k] * depth[k] / spread_;
    misfit = 0;
    for (int k = 0; k < tip_samples; ++k) misfit += std::pow(depth[k] - mean - slope * x_[k], 2);
    return mean - slope * mean_;
  }

 private:
  double x_[tip_samples], mean_ = 0, spread_ = 0;
};

// Length to add to the hull at `tip`; at most `limit` either way.
inline double beyond_tip(const std::vector<Point>& hull, std::size_t tip, double ex, double ey, double area, double limit) {
  static const TipLine round_end(2.0 / 3), corner_end(0.5);
  double depth[tip_samples], as_round, as_corner;
  depths_below(hull, tip, ex, ey, area, depth);
  const double round = round_end.start(depth, as_round), corner = corner_end.start(depth, as_corner);
  return std::clamp(-(as_corner < as_round / 2 ? corner : round), -limit, limit);
}

// The greatest caliper width of a hull, from the areas cut off at a twenty-fifth of the square of the smallest width (that part
// is a tip of the object whatever its shape). Never below the mean width, perimeter / pi. `pixel`: side of a pixel.
inline double greatest_width(const std::vector<Point>& hull, const Calipers& c, double perimeter, double pixel) {
  const double mean = perimeter / 3.14159265358979323846;
  if (hull.size() < 3 || !(c.min > 0)) return c.max;
  const double area = 0.04 * c.min * c.min, limit = 0.7 * pixel;
  double greatest = mean;
  for (const std::pair<std::size_t, std::size_t>& pair : c.farthest) {
    const Point &from = hull[pair.first], &to = hull[pair.second];
    const double ex = (to.x - from.x) / c.max, ey = (to.y - from.y) / c.max;
    greatest = std::max(greatest, c.max + beyond_tip(hull, pair.second, ex, ey, area, limit) +
                                      beyond_tip(hull, pair.first, -ex, -ey, area, limit));
  }
  return greatest;
}

}  // namespace bm
