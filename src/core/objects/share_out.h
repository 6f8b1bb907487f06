// The pixels of an object shared out among the convex things it consists of: each pixel goes to the
// hull it lies deepest in, the rest to what they touch.
#pragma once
#include <algorithm>
#include <cmath>
#include <vector>

#include "../common/plane.h"
#include "group_arcs.h"

namespace bm {

// Pixels labelled `label` get first, first + 1, ... for the hulls in their order, whose places
// count from pixel (x0, y0). `labels` and `out` are different pictures.
class ShareOut {
 public:
  ShareOut(Plane<const int> labels, Plane<int> out, double sx, double sy)
      : labels_(labels), out_(out), sx_(sx), sy_(sy) {}

  // Returns the share of its pixels that lie in no hull.
  double operator()(int label, const std::vector<std::vector<Point>>& hulls, int first,
                    ptrdiff_t x0, ptrdiff_t y0) {
    x0_ = x0;
    y0_ = y0;
    std::vector<std::size_t> queue;
    for (std::size_t k = 0; k < hulls.size(); ++k) claim(label, hulls, k, first, queue);
    const double in_hulls = static_cast<double>(queue.size());
    spread(label, first, first + static_cast<int>(hulls.size()), queue);
    return queue.empty() ? 1 : 1 - in_hulls / static_cast<double>(queue.size());
  }

 private:
  void claim(int label, const std::vector<std::vector<Point>>& hulls, std::size_t k, int first,
             std::vector<std::size_t>& queue) {
    const std::vector<Point>& hull = hulls[k];
    double left = 1e300, right = -1e300;
    for (const Point& p : hull) {
      left = std::min(left, p.x);
      right = std::max(right, p.x);
    }
    const std::size_t last = clamped(right / sx_ + 0.5, x0_, labels_.cols);
    for (std::size_t x = clamped(left / sx_ + 0.5, x0_, labels_.cols); x < last; ++x) {
      const double middle = sx_ * (static_cast<double>(static_cast<ptrdiff_t>(x) - x0_) + 0.5);
      double top = 1e300, bottom = -1e300;  // of the hull in this column
      for (std::size_t i = 0; i < hull.size(); ++i) {
        const Point &a = hull[i], &b = hull[i + 1 < hull.size() ? i + 1 : 0];
        if ((a.x > middle) == (b.x > middle)) continue;
        const double y = a.y + (middle - a.x) / (b.x - a.x) * (b.y - a.y);
        top = std::min(top, y);
        bottom = std::max(bottom, y);
      }
      const std::size_t end = clamped(bottom / sy_ + 0.5, y0_, labels_.rows);
      for (std::size_t y = clamped(top / sy_ + 0.5, y0_, labels_.rows); y < end; ++y) {
        const std::size_t i = x * labels_.rows + y;
        if (labels_.data[i] != label) continue;
        const int owner = out_.data[i];
        const Point centre = {middle,
                              sy_ * (static_cast<double>(static_cast<ptrdiff_t>(y) - y0_) + 0.5)};
        if (owner < first) {
          queue.push_back(i);
        } else if (depth_in(hulls[static_cast<std::size_t>(owner - first)], centre) >=
                   depth_in(hull, centre)) {
          continue;
        }
        out_.data[i] = first + static_cast<int>(k);
      }
    }
  }

  // From neighbour to neighbour, over all pixels of the object that nobody has claimed.
  void spread(int label, int first, int end, std::vector<std::size_t>& queue) {
    const ptrdiff_t rows = static_cast<ptrdiff_t>(labels_.rows),
                    cols = static_cast<ptrdiff_t>(labels_.cols);
    for (std::size_t at = 0; at < queue.size(); ++at) {
      const ptrdiff_t x = static_cast<ptrdiff_t>(queue[at]) / rows,
                      y = static_cast<ptrdiff_t>(queue[at]) % rows;
      for (int step = 0; step < 8; ++step) {
        static const int dx[8] = {0, 0, -1, 1, -1, -1, 1, 1}, dy[8] = {-1, 1, 0, 0, -1, 1, -1, 1};
        const ptrdiff_t nx = x + dx[step], ny = y + dy[step];
        if (nx < 0 || ny < 0 || nx >= cols || ny >= rows) continue;
        const std::size_t j = static_cast<std::size_t>(nx * rows + ny);
        if (labels_.data[j] != label || (out_.data[j] >= first && out_.data[j] < end)) continue;
        out_.data[j] = out_.data[queue[at]];
        queue.push_back(j);
      }
    }
  }

  // A column or row of the picture, from one that counts from `origin`.
  static std::size_t clamped(double v, ptrdiff_t origin, std::size_t n) {
    const double at = std::floor(std::clamp(v, -1e9, 1e9)) + static_cast<double>(origin);
    return static_cast<std::size_t>(std::clamp(at, 0.0, static_cast<double>(n)));
  }

  Plane<const int> labels_;
  Plane<int> out_;
  double sx_, sy_;
  ptrdiff_t x0_ = 0, y0_ = 0;
};

}  // namespace bm
