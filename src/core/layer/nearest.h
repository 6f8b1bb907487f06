// Distances from points to a line of many corners: the nearest point on it, and where lines in one
// direction cross it.
#pragma once
#include <algorithm>
#include <cmath>
#include <cstddef>
#include <limits>
#include <vector>

namespace bm {

struct LinePoint {
  double distance = std::numeric_limits<double>::infinity(), x = 0, y = 0;
  std::size_t segment = 0;
};

// Segments k from corner k to k + 1, under boxes of 16 of them, and boxes of 16 boxes. Points asked
// one after the other are mostly near each other, so that the last answer's box comes first.
class Polyline {
 public:
  Polyline(const double* x, const double* y, std::size_t n) : x_(x), y_(y), segments_(n - 1) {
    for (std::size_t k = 0; k < segments_; k += many) boxes_.push_back(box_of(k));
    for (std::size_t b = 0; b < boxes_.size(); b += many) {
      Box box = boxes_[b];
      for (std::size_t i = b; i < std::min(b + many, boxes_.size()); ++i) box.join(boxes_[i]);
      over_.push_back(box);
    }
  }

  LinePoint nearest(double px, double py) {
    LinePoint best;
    double square = std::numeric_limits<double>::infinity();
    scan_box(last_, px, py, square, best);
    for (std::size_t o = 0; o < over_.size(); ++o) {
      if (over_[o].square(px, py) >= square) continue;
      const std::size_t end = std::min((o + 1) * many, boxes_.size());
      for (std::size_t b = o * many; b < end; ++b)
        if (b != last_ && boxes_[b].square(px, py) < square) scan_box(b, px, py, square, best);
    }
    last_ = best.segment / many;
    best.distance = std::sqrt(square);
    return best;
  }

 private:
  static constexpr std::size_t many = 16;

  struct Box {
    double left, right, top, bottom;
    void join(const Box& b) {
      left = std::min(left, b.left);
      right = std::max(right, b.right);
      top = std::min(top, b.top);
      bottom = std::max(bottom, b.bottom);
    }
    double square(double x, double y) const {
      const double u = std::max({left - x, x - right, 0.0}),
                   v = std::max({top - y, y - bottom, 0.0});
      return u * u + v * v;
    }
  };

  Box box_of(std::size_t first) const {
    Box box{x_[first], x_[first], y_[first], y_[first]};
    for (std::size_t k = first + 1; k <= std::min(first + many, segments_); ++k)
      box.join({x_[k], x_[k], y_[k], y_[k]});
    return box;
  }

  void scan_box(std::size_t b, double px, double py, double& square, LinePoint& best) const {
    const std::size_t end = std::min((b + 1) * many, segments_);
    for (std::size_t k = b * many; k < end; ++k) {
      const double dx = x_[k + 1] - x_[k], dy = y_[k + 1] - y_[k], u = px - x_[k], v = py - y_[k];
      const double length = dx * dx + dy * dy;
      const double t = length > 0 ? std::min(1.0, std::max(0.0, (u * dx + v * dy) / length)) : 0;
      const double a = u - t * dx, c = v - t * dy, own = a * a + c * c;
      if (own < square) {
        square = own;
        best.x = x_[k] + t * dx;
        best.y = y_[k] + t * dy;
        best.segment = k;
      }
    }
  }

  const double *x_, *y_;
  std::size_t segments_, last_ = 0;
  std::vector<Box> boxes_, over_;
};

struct Crossing {
  LinePoint nearest;  // its distance with a sign: ahead or back
  int times = 0;
};

// Where lines in the direction (dx, dy) cross a line of corners. Segments lie in buckets by their
// place beside the direction; a corner belongs to one of its two segments.
class CrossedLine {
 public:
  CrossedLine(const double* x, const double* y, std::size_t n, double dx, double dy)
      : x_(x), y_(y), n_(n), dx_(dx), dy_(dy) {
    for (std::size_t k = 0; k < n; ++k) side_.push_back(x[k] * -dy + y[k] * dx);
    const auto ends = std::minmax_element(side_.begin(), side_.end());
    low_ = *ends.first;
    width_ = std::max((*ends.second - low_) / static_cast<double>(n), 1e-300);
    buckets_.resize(n + 1);
    for (std::size_t k = 0; k + 1 < n; ++k) {
      const std::size_t a = bucket(std::min(side_[k], side_[k + 1])),
                        b = bucket(std::max(side_[k], side_[k + 1]));
      for (std::size_t i = a; i <= b; ++i) buckets_[i].push_back(k);
    }
  }

  Crossing cross(double px, double py) const {
    Crossing found;
    const double side = px * -dy_ + py * dx_, slack = 1e-9 * (1 + std::fabs(side));
    if (side < low_ - slack || side > low_ + width_ * static_cast<double>(n_) + slack) return found;
    for (const std::size_t k : buckets_[bucket(side)]) {
      double low = side_[k], high = side_[k + 1];
      if (low == high) continue;
      const double t = std::min(1.0, std::max(0.0, (side - low) / (high - low)));
      if (low > high) std::swap(low, high);
      // the outermost corners belong to the line as well
      if (k == 0 || k + 2 == n_) {
        low -= slack;
        high += slack;
      }
      if (!(side >= low && side < high)) continue;
      const double x = x_[k] + t * (x_[k + 1] - x_[k]), y = y_[k] + t * (y_[k + 1] - y_[k]);
      const double distance = (x - px) * dx_ + (y - py) * dy_;
      ++found.times;
      if (std::fabs(distance) < std::fabs(found.nearest.distance))
        found.nearest = {distance, x, y, k};
    }
    return found;
  }

 private:
  std::size_t bucket(double side) const {
    const double at = std::floor((side - low_) / width_);
    return static_cast<std::size_t>(std::min(std::max(at, 0.0), static_cast<double>(n_)));
  }

  const double *x_, *y_;
  std::size_t n_;
  double dx_, dy_, low_ = 0, width_ = 1;
  std::vector<double> side_;
  std::vector<std::vector<std::size_t>> buckets_;
};

}  // namespace bm
