// The pose of a find to a fraction of a pixel: across every taught point the picture, smoothed a
// little, is sampled along the taught direction; where it is steepest lies the edge. Least squares
// on those distances with weights after Tukey move the pose, until the last step takes the slope's
// change at the taught place itself, whose error is linear in the noise. Points count as found
// where the slope is a fair share of this part's own and runs in the taught direction.
#pragma once
#include <algorithm>
#include <array>
#include <cmath>
#include <vector>

#include "pattern.h"
#include "pose_fit.h"
#include "smooth_patch.h"

namespace bm {

constexpr int settle_reach = 3;        // how far off an edge is looked for
constexpr double least_error = 0.003;  // of a place in pixels: what values between pixels cost
constexpr double root_pi = 1.7724539;
constexpr double own_share = 0.35;  // least slope of a point beside the part's own

// Standard deviation of the slope after smoothing, in noise that differs from pixel to pixel.
inline double smooth_slope_noise(double noise) {
  return noise / (std::sqrt(4 * full_turn) * settle_sigma * settle_sigma);
}

// What is seen across one taught point.
struct Sight {
  Placing::Point place;
  bool inside = false, found = false, trusted = false;
  std::array<double, 2 * settle_reach + 1> slope{};  // along the taught direction
  double steepest = 0, distance = 0;                 // the edge: how steep, and how far off
};

struct Find {
  Pose pose;
  double score = 0;
  std::array<double, 16> covariance{};  // of x, y, turn, log of scale
  std::vector<Placing::Point> points;   // those found
  bool inverted = false;
};

class Settler {
 public:
  Settler(Plane<const double> picture, const Pattern& pattern, double noise, PoseRange range,
          bool either)
      : picture_(picture), pattern_(pattern), range_(range), either_(either) {
    neighbours_ = neighbours_of_points();
    least_slope_ = 2 * smooth_slope_noise(noise);
  }

  // A find that stays far below the score wanted is given up, with a score of zero.
  Find settle(Pose pose, double wanted) const {
    const std::vector<TaughtPoint>& taught = pattern_.levels.front().points;
    const SmoothPatch patch = patch_round(pose);
    std::vector<Sight> sights(taught.size());
    const double sign = either_ ? sign_of(patch, pose) : 1;
    Find find;
    for (const int reach : {3, 3, 2, 1}) {
      if (look(patch, pose, sign, reach, sights) < 0.8 * wanted) return find;
      const PoseFit fit = fitted(sights, pose, false);
      if (!fit.good) return find;
      if (reach == 2) pose = slid(patch, pose, sign, fit);
      move(pose, fit);
      find.covariance = fit.covariance;
    }
    for (int last = 0; last < 2; ++last) {
      look(patch, pose, sign, 2, sights);
      const PoseFit fit = fitted(sights, pose, true);
      if (fit.good) {
        move(pose, fit);
        find.covariance = fit.covariance;
      }
    }
    find.score = look(patch, pose, sign, 2, sights);
    add_least_error(pose, find.covariance);
    find.pose = pose;
    find.inverted = sign < 0;
    for (const Sight& s : sights)
      if (s.found) find.points.push_back(s.place);
    return find;
  }

  // How far the edge lies from each taught point at a pose, and how steep it is there.
  std::vector<Sight> sights_at(const Pose& pose) const {
    std::vector<Sight> sights(pattern_.levels.front().points.size());
    look(patch_round(pose), pose, 1, settle_reach, sights);
    return sights;
  }

 private:
  SmoothPatch patch_round(const Pose& pose) const {
    const Placing place(pose, pattern_.aspect);
    double left = pose.x, right = pose.x, top = pose.y, bottom = pose.y;
    for (const TaughtPoint& p : pattern_.levels.front().points) {
      const Placing::Point at = place(p);
      left = std::min(left, at.x);
      right = std::max(right, at.x);
      top = std::min(top, at.y);
      bottom = std::max(bottom, at.y);
    }
    const double more = 2 * settle_reach + 6;
    return {picture_, left - more, top - more, right + more, bottom + more};
  }

  // Looks at every point and marks those found; their share.
  double look(const SmoothPatch& patch, const Pose& pose, double sign, int reach,
              std::vector<Sight>& sights) const {
    const std::vector<TaughtPoint>& taught = pattern_.levels.front().points;
    const Placing place(pose, pattern_.aspect);
    std::vector<double> gains;
    for (size_t k = 0; k < taught.size(); ++k) {
      Sight& s = sights[k];
      s.place = place(taught[k]);
      s.found = false;
      s.inside = see(patch, sign, reach, s);
      if (s.inside) gains.push_back(s.steepest / taught[k].slope);
    }
    if (gains.size() < 4) return 0;
    auto high = gains.begin() + static_cast<ptrdiff_t>(gains.size() * 3 / 4);
    std::nth_element(gains.begin(), high, gains.end());
    const double own = *high;
    size_t found = 0;
    for (size_t k = 0; k < taught.size(); ++k) {
      Sight& s = sights[k];
      s.found = s.inside && std::fabs(s.distance) < reach + 0.5 && s.steepest > least_slope_ &&
                s.steepest > own_share * own * taught[k].slope && runs_along(patch, sign, s);
      found += s.found;
    }
    trust(sights);
    return static_cast<double>(found) / static_cast<double>(taught.size());
  }

  // Next to where the contour is hidden, the edge of what hides it is seen as well: a point is
  // trusted when most of its neighbours are found.
  void trust(std::vector<Sight>& sights) const {
    for (size_t k = 0; k < sights.size(); ++k) {
      size_t near = 0;
      for (const size_t other : neighbours_[k]) near += sights[other].found;
      sights[k].trusted = sights[k].found && 10 * near >= 7 * neighbours_[k].size();
    }
  }

  std::vector<std::vector<size_t>> neighbours_of_points() const {
    const std::vector<TaughtPoint>& p = pattern_.levels.front().points;
    const double reach = std::max(4.0, 2.5 * pattern_.spacing);
    std::vector<std::vector<size_t>> near(p.size());
    for (size_t i = 0; i < p.size(); ++i) {
      for (size_t j = 0; j < p.size(); ++j) {
        const double dx = p[i].x - p[j].x, dy = p[i].y - p[j].y;
        if (i != j && dx * dx + dy * dy < reach * reach) near[i].push_back(j);
      }
    }
    return near;
  }

  static bool see(const SmoothPatch& patch, double sign, int reach, Sight& s) {
    constexpr int most = settle_reach + 1;
    const Placing::Point& p = s.place;
    if (!patch.holds(p.x - most * p.nx, p.y - most * p.ny) ||
        !patch.holds(p.x + most * p.nx, p.y + most * p.ny))
      return false;
    std::array<double, 2 * most + 1> grey;
    for (int k = -most; k <= most; ++k)
      grey[static_cast<size_t>(k + most)] = patch.at(p.x + k * p.nx, p.y + k * p.ny);
    for (size_t k = 0; k < s.slope.size(); ++k) s.slope[k] = sign * (grey[k + 2] - grey[k]) / 2;
    const auto centre = s.slope.begin() + settle_reach;
    const auto top = std::max_element(centre - reach, centre + reach + 1);
    s.steepest = *top;
    s.distance = static_cast<double>(top - centre);
    if (top != s.slope.begin() && top + 1 != s.slope.end()) {
      const double bend = top[-1] - 2 * top[0] + top[1];
      if (bend < 0) s.distance += std::min(std::max((top[-1] - top[1]) / (2 * bend), -0.5), 0.5);
    }
    return true;
  }

  // Whether the edge runs across the taught direction to within 35 degrees.
  static bool runs_along(const SmoothPatch& patch, double sign, const Sight& s) {
    const double x = s.place.x + s.distance * s.place.nx, y = s.place.y + s.distance * s.place.ny;
    const double aside =
        sign *
        (patch.at(x - s.place.ny, y + s.place.nx) - patch.at(x + s.place.ny, y - s.place.nx)) / 2;
    return std::fabs(aside) < 0.7 * s.steepest;
  }

  // How far off the trusted edges lie; `linear`: by the slope's change at the taught place, whose
  // sharpness is taken to be the same along the contour.
  PoseFit fitted(const std::vector<Sight>& sights, const Pose& pose, bool linear) const {
    double bend = 0, slopes = 0;
    for (const Sight& s : sights) {
      if (!s.trusted) continue;
      const double* c = s.slope.data() + settle_reach;
      bend += 2 * c[0] - c[-1] - c[1];
      slopes += c[0];
    }
    if (linear && !(bend > 0 && slopes > 0)) return {};
    std::vector<Pull> pulls;
    for (const Sight& s : sights) {
      if (!s.trusted) continue;
      const double* c = s.slope.data() + settle_reach;
      double off = s.distance;
      if (linear && std::fabs(off) < 1 && c[0] > 0)
        off = std::min(std::max((c[1] - c[-1]) / 2 / (c[0] * bend / slopes), -1.5), 1.5);
      pulls.push_back({change_of(s.place, pose), off});
    }
    const double alike = 2 * root_pi * settle_sigma / (pattern_.spacing * pose.scale);
    return fit_pose(pulls, 2 + range_.turns() + range_.scales(), std::max(alike, 1.0));
  }

  // How far a point moves along its direction with x, y, turn and log of scale.
  Four change_of(const Placing::Point& p, const Pose& pose) const {
    const double rx = p.x - pose.x, ry = p.y - pose.y, aspect = pattern_.aspect;
    return {p.nx, p.ny, range_.turns() ? p.nx * ry * aspect - p.ny * rx / aspect : 0,
            range_.scales() ? p.nx * rx + p.ny * ry : 0};
  }

  // Without noise the distances say nothing of the error.
  void add_least_error(const Pose& pose, std::array<double, 16>& covariance) const {
    const std::vector<TaughtPoint>& taught = pattern_.levels.front().points;
    double square = 0;
    for (const TaughtPoint& p : taught) square += p.x * p.x + p.y * p.y;
    const double error = least_error * least_error,
                 reach = pose.scale * pose.scale * square / static_cast<double>(taught.size());
    for (const size_t k : {0, 5}) covariance[k] += error;
    for (const size_t k : {10, 15}) covariance[k] += error / std::max(reach, 1.0);
  }

  void move(Pose& pose, const PoseFit& fit) const {
    auto held = [](double v, double most) { return std::min(std::max(v, -most), most); };
    pose.x += held(fit.step[0], 4);
    pose.y += held(fit.step[1], 4);
    pose.turn += held(fit.step[2], 0.2);
    pose.scale *= std::exp(held(fit.step[3], 0.1));
  }

  // Parallel edges whose ends are hidden say little of where the part lies along them: the place
  // there at which most points are found.
  Pose slid(const SmoothPatch& patch, const Pose& pose, double sign, const PoseFit& fit) const {
    const double a = fit.covariance[0], b = fit.covariance[1], c = fit.covariance[5];
    const double half = (a + c) / 2, root = std::sqrt((a - c) * (a - c) / 4 + b * b);
    if (half - root > 0.1 * (half + root)) return pose;
    const double angle = 0.5 * std::atan2(2 * b, a - c);
    std::vector<Sight> sights(pattern_.levels.front().points.size());
    Pose best = pose;
    double most = -1;
    for (int k = 0; k <= 8; ++k) {
      const int away = k % 2 ? -(k + 1) / 2 : k / 2;
      Pose there = pose;
      there.x += away * std::cos(angle);
      there.y += away * std::sin(angle);
      const double score = look(patch, there, sign, 1, sights);
      if (score > most + 1e-9) {
        most = score;
        best = there;
      }
    }
    return best;
  }

  double sign_of(const SmoothPatch& patch, const Pose& pose) const {
    const Placing place(pose, pattern_.aspect);
    double sum = 0;
    for (const TaughtPoint& p : pattern_.levels.front().points) {
      const Placing::Point at = place(p);
      if (patch.holds(at.x - at.nx, at.y - at.ny) && patch.holds(at.x + at.nx, at.y + at.ny))
        sum += patch.at(at.x + at.nx, at.y + at.ny) - patch.at(at.x - at.nx, at.y - at.ny);
    }
    return sum < 0 ? -1 : 1;
  }

  Plane<const double> picture_;
  const Pattern& pattern_;
  PoseRange range_;
  bool either_;
  double least_slope_;
  std::vector<std::vector<size_t>> neighbours_;
};

}  // namespace bm
