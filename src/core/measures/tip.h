// How far an outline reaches at its two farthest points. Pixels round tips off and add jitter, and
// a greatest width picks the jitter that adds; the areas cut off a little below a tip know of
// neither. There the area grows with the depth to the power 3/2 below a round end, 2 below a
// corner: fitted, and run back to where the area is nothing.
#pragma once
#include <algorithm>
#include <cmath>
#include <vector>

#include "hull.h"

namespace bm {

constexpr int tip_samples = 7;

// Depths below corner `tip` of a hull, along the direction (ex, ey) in which it lies farthest, at
// which the part cut off has 2/8, 3/8 ... 8/8 of `area`.
inline void depths_below(const std::vector<Point>& h, std::size_t tip, double ex, double ey,
                         double area, double (&depth)[tip_samples]) {
  struct Side {
    std::size_t at;
    double depth, across, next_depth, next_across;
    double over(double d) const {
      return next_depth > depth
                 ? across + (next_across - across) * (d - depth) / (next_depth - depth)
                 : next_across;
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
    const double to = std::min(one.next_depth, other.next_depth),
                 next_chord = std::fabs(one.over(to) - other.over(to));
    const double whole = cut + (to - from) * (chord + next_chord) / 2;
    const double slope = to > from ? (next_chord - chord) / (to - from) : 0;
    for (; k < tip_samples && area * (k + 2) / 8 <= whole; ++k) {
      const double rest = area * (k + 2) / 8 - cut;
      depth[k] =
          from + 2 * rest / (chord + std::sqrt(std::max(0.0, chord * chord + 2 * slope * rest)));
    }
    from = to;
    chord = next_chord;
    cut = whole;
    if (one.next_depth <= other.next_depth)
      look(one, (one.at + 1) % n);
    else
      look(other, (other.at + n - 1) % n);
  }
  for (; k < tip_samples; ++k) depth[k] = from;
}

// Straight lines through the depths over (2/8, 3/8 ... 8/8) to the power `root`.
class TipLines {
 public:
  struct Fit {
    double start, slope, misfit;  // value at nothing; squares of what is off
  };
  explicit TipLines(double root) {
    for (int k = 0; k < tip_samples; ++k) {
      x_[k] = std::pow((k + 2) / 8.0, root);
      mean_ += x_[k] / tip_samples;
    }
    for (double& x : x_) {
      x -= mean_;
      spread_ += x * x;
    }
  }
  Fit fit(const double (&depth)[tip_samples]) const {
    double mean = 0, slope = 0, misfit = 0;
    for (double d : depth) mean += d / tip_samples;
    for (int k = 0; k < tip_samples; ++k) slope += x_[k] * depth[k] / spread_;
    for (int k = 0; k < tip_samples; ++k)
      misfit += (depth[k] - mean - slope * x_[k]) * (depth[k] - mean - slope * x_[k]);
    return {mean - slope * mean_, slope, misfit};
  }

 private:
  double x_[tip_samples], mean_ = 0, spread_ = 0;
};

struct Tip {
  bool corner;
  double beyond;  // from the hull to where the line starts
  double blunt;   // of a corner: tangent of half its angle
};

inline Tip tip_at(const std::vector<Point>& hull, std::size_t tip, double ex, double ey,
                  double area, const TipLines& round_ends) {
  static const TipLines corners(0.5);
  double depth[tip_samples];
  depths_below(hull, tip, ex, ey, area, depth);
  const TipLines::Fit round = round_ends.fit(depth), corner = corners.fit(depth);
  if (corner.misfit < round.misfit / 2)
    return {true, -corner.start, area / (corner.slope * corner.slope)};
  return {false, -round.start, 1};
}

// How far a corner of a mask reaches beyond the hull, over `blunt`, from where the line for its
// sides starts; in pixels. The hull falls short of sharp corners by a quarter of a pixel, and
// reaches beyond rounded ones by a seventh, whose sides meet far outside (set on drawn triangles to
// octagons, corners sharp or rounded by 1 to 5 pixels; bench/shapes.R draws some of them again).
inline double mask_corner(double sides_meet) {
  if (sides_meet < 0.2) return 0.23 + 0.45 * sides_meet;
  return std::max(-0.14, 0.32 - 2.3 * (sides_meet - 0.2));
}

// How far tips may lie from the hull, and corners do; in pixels. Corners of sub-pixel outlines have
// been put right already.
struct TipRule {
  double limit;
  double (*corner)(double sides_meet);
};
constexpr TipRule mask_tips{0.7, mask_corner}, outline_tips{0.1, [](double) { return 0.0; }};

// The greatest caliper width of a hull, from the areas cut off at a twenty-fifth of the square of
// the smallest width (that part is a tip of the object whatever its shape), of small objects at
// more. `mean`: the mean width, which it is never below.
inline double greatest_width(const std::vector<Point>& hull, const Calipers& c, double mean,
                             double pixel, const TipRule& rule) {
  if (hull.size() < 3 || !(c.min > 0)) return c.max;
  const double square = c.min * c.min,
               area = std::clamp(35 * pixel * pixel, 0.04 * square, 0.15 * square);
  // a disc has no straight line over any power, but nearly so
  const TipLines round_ends(2.0 / 3 + 0.2 * area / (c.min * c.max));
  // a tip a pixel or two wide is known too badly
  const double limit = std::clamp(0.15 * (c.min - pixel), 0.0, rule.limit * pixel);
  double greatest = std::max(mean, c.min);
  for (const std::pair<std::size_t, std::size_t>& pair : c.farthest) {
    const Point &from = hull[pair.first], &to = hull[pair.second];
    const double ex = (to.x - from.x) / c.max, ey = (to.y - from.y) / c.max;
    const Tip a = tip_at(hull, pair.second, ex, ey, area, round_ends),
              b = tip_at(hull, pair.first, -ex, -ey, area, round_ends);
    // two corners of one object are rounded alike
    const double meet_a = a.beyond * a.blunt, meet_b = b.beyond * b.blunt;
    const double meet = a.corner && b.corner ? (meet_a + meet_b) / 2 : a.corner ? meet_a : meet_b;
    auto beyond = [&](const Tip& t) {
      return t.corner ? pixel * rule.corner(meet / pixel) / t.blunt : t.beyond;
    };
    greatest = std::max(greatest, c.max + std::clamp(beyond(a), -limit, limit) +
                                      std::clamp(beyond(b), -limit, limit));
  }
  return greatest;
}

}  // namespace bm
