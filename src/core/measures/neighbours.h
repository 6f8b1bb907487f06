// The nearest neighbour of every object: by centroids, and by the gap between the edges. Points are
// kept in a grid of square cells, which is searched ring by ring outward until nothing nearer can
// come.
#pragma once
#include <algorithm>
#include <cmath>
#include <limits>
#include <vector>

#include "hull.h"
#include "../common/plane.h"

namespace bm {

class PointGrid {
 public:
  PointGrid(std::vector<Point> points, std::vector<int> owner)
      : points_(std::move(points)), owner_(std::move(owner)) {
    double right = 0, bottom = 0;
    left_ = top_ = std::numeric_limits<double>::infinity();
    for (const Point& p : points_) {
      left_ = std::min(left_, p.x);
      top_ = std::min(top_, p.y);
      right = std::max(right, p.x);
      bottom = std::max(bottom, p.y);
    }
    // about two points a cell
    const double area = std::max((right - left_) * (bottom - top_), 1e-12),
                 n = static_cast<double>(std::max<std::size_t>(points_.size(), 1));
    cell_ =
        std::max({std::sqrt(2 * area / n), (right - left_) / 4096, (bottom - top_) / 4096, 1e-12});
    across_ = points_.empty() ? 1 : cell_of(right, left_) + 1;
    down_ = points_.empty() ? 1 : cell_of(bottom, top_) + 1;
    start_.assign(across_ * down_ + 1, 0);
    for (const Point& p : points_) ++start_[cell(p) + 1];
    for (std::size_t k = 1; k < start_.size(); ++k) start_[k] += start_[k - 1];
    order_.resize(points_.size());
    std::vector<std::size_t> next(start_);
    for (std::size_t i = 0; i < points_.size(); ++i) order_[next[cell(points_[i])]++] = i;
  }

  // Distance from p to the nearest point of another owner, when it is below `best`; else `best`.
  double nearest_other(const Point& p, int owner, double best) const {
    const ptrdiff_t cx = static_cast<ptrdiff_t>(cell_of(p.x, left_)),
                    cy = static_cast<ptrdiff_t>(cell_of(p.y, top_));
    const ptrdiff_t most = static_cast<ptrdiff_t>(std::max(across_, down_));
    for (ptrdiff_t ring = 0; ring <= most && static_cast<double>(ring - 1) * cell_ < best; ++ring) {
      for (ptrdiff_t x = cx - ring; x <= cx + ring; ++x) {
        if (x < 0 || x >= static_cast<ptrdiff_t>(across_)) continue;
        const bool side = x == cx - ring || x == cx + ring;
        for (ptrdiff_t y = cy - ring; y <= cy + ring; y += side || ring == 0 ? 1 : 2 * ring) {
          if (y < 0 || y >= static_cast<ptrdiff_t>(down_)) continue;
          const std::size_t c = static_cast<std::size_t>(x) * down_ + static_cast<std::size_t>(y);
          for (std::size_t k = start_[c]; k < start_[c + 1]; ++k) {
            if (owner_[order_[k]] == owner) continue;
            const Point& q = points_[order_[k]];
            best = std::min(best, std::hypot(q.x - p.x, q.y - p.y));
          }
        }
      }
    }
    return best;
  }

  const std::vector<Point>& points() const { return points_; }
  const std::vector<int>& owner() const { return owner_; }

 private:
  std::size_t cell_of(double at, double from) const {
    return static_cast<std::size_t>((at - from) / cell_);
  }
  std::size_t cell(const Point& p) const {
    return cell_of(p.x, left_) * down_ + cell_of(p.y, top_);
  }
  std::vector<Point> points_;
  std::vector<int> owner_;
  double left_, top_, cell_;
  std::size_t across_, down_;
  std::vector<std::size_t> start_, order_;
};

// Distance of every owner 1 .. count to the nearest point of another; infinite where there is none.
inline std::vector<double> nearest_others(const PointGrid& grid, int count) {
  std::vector<double> best(static_cast<std::size_t>(count),
                           std::numeric_limits<double>::infinity());
  for (std::size_t i = 0; i < grid.points().size(); ++i) {
    double& mine = best[static_cast<std::size_t>(grid.owner()[i]) - 1];
    mine = grid.nearest_other(grid.points()[i], grid.owner()[i], mine);
  }
  return best;
}

// Pixels of objects that have a neighbour of another label, as points in the unit of (sx, sy).
inline PointGrid edge_points(Plane<const int> labels, double sx, double sy) {
  std::vector<Point> points;
  std::vector<int> owner;
  for (std::size_t x = 0; x < labels.cols; ++x) {
    const int* v = labels.col(x);
    for (std::size_t y = 0; y < labels.rows; ++y) {
      if (v[y] == 0) continue;
      const bool inner = (x == 0 || labels.col(x - 1)[y] == v[y]) &&
                         (x + 1 == labels.cols || labels.col(x + 1)[y] == v[y]) &&
                         (y == 0 || v[y - 1] == v[y]) && (y + 1 == labels.rows || v[y + 1] == v[y]);
      if (inner) continue;
      points.push_back({(static_cast<double>(x) + 0.5) * sx, (static_cast<double>(y) + 0.5) * sy});
      owner.push_back(v[y]);
    }
  }
  return PointGrid(std::move(points), std::move(owner));
}

}  // namespace bm
