// Which arcs of an outline belong to one convex thing (segment grouping, Zafari, Eerola, Sampo &
// Kalviainen 2015): those that lie on one convex outline within the object and near one ellipse.
#pragma once
#include <algorithm>
#include <cmath>
#include <map>
#include <queue>
#include <tuple>
#include <utility>
#include <vector>

#include "../common/plane.h"
#include "../outline/concave.h"
#include "../outline/ellipse.h"

namespace bm {

// How far arcs of one thing may lie off a convex outline, in pixels or as a share of its radius,
// and off their ellipse (a regular pentagon: 6 %).
constexpr double convex_slack = 0.75, convex_share = 0.05, ellipse_share = 0.12;
// What an unseen ellipse costs against one that arcs lie off.
constexpr double unseen_cost = 0.15;
// Blur fills the corner of a notch: so many pixels at the ends of an arc do not count.
constexpr std::size_t blurred_end = 3;

// A convex thing: its arcs, their points (sorted; without the ends of arcs), and all of them.
struct Group {
  std::vector<std::size_t> arcs;
  std::vector<Point> points, all;
};

inline double hull_radius(const std::vector<Point>& hull) {
  return std::sqrt(hull_area(hull) / pi);
}

// Depth of a point in a hull (corners in one turn, either way); below 0 outside.
inline double depth_in(const std::vector<Point>& hull, const Point& p) {
  double least = 1e300;
  const bool turned = hull.size() > 2 && cross(hull[0], hull[1], hull[2]) < 0;
  for (std::size_t i = 0; i < hull.size(); ++i) {
    const Point &a = hull[i], &b = hull[i + 1 < hull.size() ? i + 1 : 0];
    const double far = length_of(b.x - a.x, b.y - a.y);
    if (far > 0) least = std::min(least, (turned ? -1 : 1) * cross(a, b, p) / far);
  }
  return least;
}

// One labelled object whose outline is put together from arcs.
class ArcGroups {
 public:
  // A pixel is sx by sy, the larger of the two 1. Arcs are given as the labels are seen.
  ArcGroups(const Seen<int>& labels, int label, double sx, double sy, const std::vector<Arc>& arcs,
            const std::vector<Point>& notches)
      : labels_(labels),
        label_(label),
        sx_(sx),
        sy_(sy),
        arcs_(arcs),
        notches_(notches),
        sorted_notches_(sorted_points(notches)) {}

  // Groups whose necks are narrower than the smaller of their two sides by `depth` and by `share`
  // of its radius.
  template <class Interrupt>
  std::vector<Group> find(double depth, double share, Interrupt pause) {
    for (std::size_t k = 0; k < arcs_.size(); ++k) {
      groups_.push_back(group_of(k));
      reach_.push_back(arcs_.size() > 1 ? reach_of(arcs_[k]) : 0);
    }
    join_arcs(pause);
    drop_slivers();
    join_across_shallow(depth, share);
    return std::move(groups_);
  }

  // The ellipse a group is part of. Not known when less than a third of it would be seen, or when
  // it would be smaller than what is seen: short arcs are fitted by too small ellipses.
  Ellipse completed(const Group& g) const {
    const Ellipse e = fit_ellipse(off_frame(g.points));
    const double share = hull_area(convex_hull(g.all)) / (pi / 4 * e.major * e.minor);
    return e.known() && share >= 1.0 / 3 && share <= 1.1 ? e : Ellipse{};
  }

 private:
  Group group_of(std::size_t k) const {
    const std::vector<Point>& all = arcs_[k].points;
    const std::size_t end = arcs_[k].from < 0 ? 0 : std::min(blurred_end, all.size() / 6);
    Group g{{k}, {}, sorted_points(all)};
    g.points = sorted_points(
        {all.begin() + static_cast<ptrdiff_t>(end), all.end() - static_cast<ptrdiff_t>(end)});
    return g;
  }

  static std::vector<Point> merged(const std::vector<Point>& a, const std::vector<Point>& b) {
    std::vector<Point> out(a.size() + b.size());
    std::merge(a.begin(), a.end(), b.begin(), b.end(), out.begin(), left_of);
    return out;
  }
  static Group together(const Group& a, const Group& b) {
    Group g{a.arcs, merged(a.points, b.points), merged(a.all, b.all)};
    g.arcs.insert(g.arcs.end(), b.arcs.begin(), b.arcs.end());
    return g;
  }

  bool within(double x, double y) const {
    const auto row = static_cast<ptrdiff_t>(std::floor(y / sy_)),
               col = static_cast<ptrdiff_t>(std::floor(x / sx_));
    return labels_.holds(col, row) && labels_.at(col, row) == label_;
  }

  // Whether the stretch from a to b, moved to its right hand by `inward`, lies in the object.
  bool stretch_within(const Point& a, const Point& b, double inward) const {
    const double far = length_of(b.x - a.x, b.y - a.y);
    if (far < 2) return true;
    const double dx = -inward * (b.y - a.y) / far, dy = inward * (b.x - a.x) / far;
    const int steps = static_cast<int>(std::ceil(far));
    for (int i = 1; i < steps; ++i) {
      const double t = static_cast<double>(i) / steps;
      if (!within(a.x + t * (b.x - a.x) + dx, a.y + t * (b.y - a.y) + dy)) return false;
    }
    return true;
  }

  static Point middle_of(const Arc& arc) { return arc.points[arc.points.size() / 2]; }

  // How far from the middle of an arc others of the same thing may lie: half as far again as one
  // sees from there across the object.
  double reach_of(const Arc& arc) const {
    constexpr int rays = 48;
    const Point from = middle_of(arc);
    double most = 0;
    for (int k = 0; k < rays; ++k) {
      const double dx = std::cos(2 * pi * k / rays), dy = std::sin(2 * pi * k / rays);
      double far = 2;  // the middle lies on the edge
      while (within(from.x + far * dx, from.y + far * dy)) far += 1;
      most = std::max(most, far);
    }
    return 1.5 * most;
  }

  // Whether both ends and the middle of another arc lie on the inner side of the middle of one.
  static bool faces(const Arc& arc, const Arc& other) {
    const std::vector<Point>&p = arc.points, &q = other.points;
    const Point middle = middle_of(arc);
    const double ux = p.back().x - p.front().x, uy = p.back().y - p.front().y,
                 far = length_of(ux, uy);
    if (far < 1) return false;
    const double slack = convex_slack + convex_share * far;
    for (const Point& r : {q.front(), middle_of(other), q.back()}) {
      // the object lies on the right hand, x right and y down
      if (((r.y - middle.y) * ux - (r.x - middle.x) * uy) / far < -slack) return false;
    }
    return true;
  }
  bool may_belong(const Group& a, const Group& b) const {
    for (std::size_t i : a.arcs) {
      for (std::size_t j : b.arcs) {
        const Arc &p = arcs_[i], &q = arcs_[j];
        const double far =
            length_of(middle_of(q).x - middle_of(p).x, middle_of(q).y - middle_of(p).y);
        if (far > std::min(reach_[i], reach_[j]) || !faces(p, q) || !faces(q, p)) return false;
      }
    }
    return true;
  }

  // How far off one ellipse two groups together lie, over its radius; below 0 when they do not
  // belong together.
  double cost(const Group& a, const Group& b) const {
    if (!may_belong(a, b)) return -1;
    if (!stretch_within(middle_of(arcs_[a.arcs[0]]), middle_of(arcs_[b.arcs[0]]), 0)) return -1;
    const std::vector<Point> points = merged(a.points, b.points), hull = convex_hull(points);
    const double radius = hull_radius(hull), slack = std::max(convex_slack, convex_share * radius);
    for (const Point& p : points)
      if (to_sides(hull, p) > slack) return -1;
    for (std::size_t i = 0; i < hull.size(); ++i) {
      const Point &p = hull[i], &q = hull[i + 1 < hull.size() ? i + 1 : 0];
      if (length_of(q.x - p.x, q.y - p.y) > 2.5 && !stretch_within(p, q, slack)) return -1;
    }
    if (holds_notch(hull, slack)) return -1;
    const std::vector<Point> edge = off_frame(points);
    const Ellipse e = fit_ellipse(edge);
    const double off = e.known() ? misfit(e, edge) / radius : 1;
    if (off > ellipse_share) return -1;
    // of arcs too short to tell, those first that leave least of their ellipse unseen
    const double seen = static_cast<double>(edge.size()) / (pi / 2 * (e.major + e.minor));
    return off + unseen_cost * std::max(0.0, 1 - seen);
  }

  // A convex thing within the object has no ground inside, and so no notch.
  bool holds_notch(const std::vector<Point>& hull, double slack) const {
    const auto [left, right] = std::minmax_element(hull.begin(), hull.end(), left_of);
    auto notch = std::lower_bound(sorted_notches_.begin(), sorted_notches_.end(), left->x,
                                  [](const Point& p, double x) { return p.x < x; });
    for (; notch != sorted_notches_.end() && notch->x <= right->x; ++notch)
      if (depth_in(hull, *notch) > slack) return true;
    return false;
  }

  std::vector<Point> off_frame(const std::vector<Point>& points) const {
    auto side = [](ptrdiff_t corner, double in) { return static_cast<double>(corner) + in; };
    const double left = sx_ * side(labels_.left, 0.5), right = sx_ * side(labels_.right, -0.5),
                 top = sy_ * side(labels_.top, 0.5), bottom = sy_ * side(labels_.bottom, -0.5);
    std::vector<Point> out;
    for (const Point& p : points)
      if (p.x > left && p.x < right && p.y > top && p.y < bottom) out.push_back(p);
    return out;
  }

  // Joins the two that fit best until none do.
  template <class Interrupt>
  void join_arcs(Interrupt pause) {
    struct Pair {
      double cost;
      std::size_t a, b;
      bool operator<(const Pair& other) const {  // the best of a heap is its greatest
        return cost > other.cost ||
               (cost == other.cost && std::tie(a, b) > std::tie(other.a, other.b));
      }
    };
    std::priority_queue<Pair> pairs;
    auto pair_up = [&](std::size_t b) {
      if (b % 64 == 63) pause();
      for (std::size_t a = 0; a < b; ++a) {
        if (groups_[a].arcs.empty()) continue;
        const double off = cost(groups_[a], groups_[b]);
        if (off >= 0) pairs.push({off, a, b});
      }
    };
    for (std::size_t b = 1; b < groups_.size(); ++b) pair_up(b);
    while (!pairs.empty()) {
      const Pair best = pairs.top();
      pairs.pop();
      if (groups_[best.a].arcs.empty() || groups_[best.b].arcs.empty()) continue;
      groups_.push_back(together(groups_[best.a], groups_[best.b]));
      groups_[best.a] = groups_[best.b] = Group{};
      pair_up(groups_.size() - 1);
    }
    drop_if([](const Group& g) { return g.arcs.empty(); });
  }

  template <class Test>
  void drop_if(Test gone) {
    groups_.erase(std::remove_if(groups_.begin(), groups_.end(), gone), groups_.end());
  }

  // Single arcs along a hole, and those without a bulge, are the edge of something else.
  void drop_slivers() {
    const std::vector<Group> before = groups_;
    drop_if([&](const Group& g) {
      if (g.arcs.size() > 1) return false;
      return arcs_[g.arcs[0]].hole || calipers(convex_hull(g.all)).min < 2 * convex_slack;
    });
    if (groups_.empty()) groups_ = before;
  }

  // Joins the groups on both sides of necks that are not narrow enough, until none are left.
  void join_across_shallow(double depth, double share) {
    for (bool joined = true; joined;) {
      joined = false;
      for (const auto& [pair, shared] : necks()) {
        Group &a = groups_[pair.first], &b = groups_[pair.second];
        if (a.arcs.empty() || b.arcs.empty() || !shallow(a, b, shared, depth, share)) continue;
        a = together(a, b);
        b = Group{};
        joined = true;
      }
      drop_if([](const Group& g) { return g.arcs.empty(); });
    }
  }

  // The notches where an arc of one group meets an arc of another.
  std::map<std::pair<std::size_t, std::size_t>, std::vector<int>> necks() const {
    constexpr std::size_t none = static_cast<std::size_t>(-1);
    std::vector<std::size_t> before(notches_.size(), none), after(notches_.size(), none);
    for (std::size_t g = 0; g < groups_.size(); ++g) {
      for (std::size_t k : groups_[g].arcs) {
        if (arcs_[k].from < 0) continue;
        after[static_cast<std::size_t>(arcs_[k].from)] = g;
        before[static_cast<std::size_t>(arcs_[k].to)] = g;
      }
    }
    std::map<std::pair<std::size_t, std::size_t>, std::vector<int>> out;
    for (std::size_t k = 0; k < notches_.size(); ++k) {
      if (before[k] == none || after[k] == none || before[k] == after[k]) continue;
      out[std::minmax(before[k], after[k])].push_back(static_cast<int>(k));
    }
    return out;
  }

  // Whether notches between two groups lie too little, on average, below the lines that rest on
  // both.
  bool shallow(const Group& a, const Group& b, const std::vector<int>& shared, double depth,
               double share) const {
    const std::vector<Point> hull = convex_hull(merged(a.all, b.all));
    double sum = 0;
    for (int k : shared) sum += to_sides(hull, notches_[static_cast<std::size_t>(k)]);
    const double radius =
        std::min(hull_radius(convex_hull(a.all)), hull_radius(convex_hull(b.all)));
    return sum / static_cast<double>(shared.size()) < std::max(depth, share * radius);
  }

  const Seen<int> labels_;
  int label_;
  double sx_, sy_;
  const std::vector<Arc>& arcs_;
  const std::vector<Point>& notches_;
  std::vector<Point> sorted_notches_;
  std::vector<Group> groups_;
  std::vector<double> reach_;
};

}  // namespace bm
