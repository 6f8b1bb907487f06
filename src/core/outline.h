// Outlines of labelled objects along the pixel edges: every ring (outer, or round a hole) as its
// corners, in pixels from the outer corner of the top-left pixel.
#pragma once
#include <cstdint>
#include <vector>

#include "plane.h"

namespace bm {

struct Ring {
  int label;
  bool hole;
  std::vector<std::int32_t> x, y;  // corners only; the last joins the first
};

// Walks with the object on the right hand. Directions: 0 up, 1 right, 2 down, 3 left.
class Tracer {
 public:
  explicit Tracer(Plane<const int> labels) : labels_(labels), seen_(labels.size(), 0) {}

  std::vector<Ring> all() {
    std::vector<Ring> rings;
    for (size_t x = 0; x < labels_.cols; ++x) {
      for (size_t y = 0; y < labels_.rows; ++y) {
        const int here = labels_.col(x)[y];
        const ptrdiff_t i = static_cast<ptrdiff_t>(x), j = static_cast<ptrdiff_t>(y);
        if (here > 0 && at(i - 1, j) != here && !seen_[x * labels_.rows + y]) rings.push_back(trace(i, j, here));
      }
    }
    return rings;
  }

 private:
  int at(ptrdiff_t x, ptrdiff_t y) const {
    const bool inside = x >= 0 && y >= 0 && x < static_cast<ptrdiff_t>(labels_.cols) && y < static_cast<ptrdiff_t>(labels_.rows);
    return inside ? labels_.col(static_cast<size_t>(x))[y] : 0;
  }

  // Starts at the left edge of pixel (px, py), walking up it; marks every left edge passed upward.
  Ring trace(ptrdiff_t px, ptrdiff_t py, int label) {
    Ring ring{label, false, {}, {}};
    ptrdiff_t x = px, y = py + 1;
    int direction = 0;
    double twice_area = 0;
    static const int dx[4] = {0, 1, 0, -1}, dy[4] = {-1, 0, 1, 0};
    do {
      if (direction == 0) seen_[static_cast<size_t>(x) * labels_.rows + static_cast<size_t>(y - 1)] = 1;
      x += dx[direction];
      y += dy[direction];
      twice_area += static_cast<double>(dy[direction]) * static_cast<double>(x);
      const int turn = next_turn(x, y, direction, label);
      if (turn != direction) {
        ring.x.push_back(static_cast<std::int32_t>(x));
        ring.y.push_back(static_cast<std::int32_t>(y));
      }
      direction = turn;
    } while (!(x == px && y == py + 1 && direction == 0));
    ring.hole = twice_area < 0;
    return ring;
  }

  // At corner (x, y): the pixels ahead decide. Left first, so that objects joined at a corner stay one ring.
  int next_turn(ptrdiff_t x, ptrdiff_t y, int direction, int label) const {
    static const int ahead_left_x[4] = {-1, 0, 0, -1}, ahead_left_y[4] = {-1, -1, 0, 0};
    static const int ahead_right_x[4] = {0, 0, -1, -1}, ahead_right_y[4] = {-1, 0, 0, -1};
    if (at(x + ahead_left_x[direction], y + ahead_left_y[direction]) == label) return (direction + 3) % 4;
    if (at(x + ahead_right_x[direction], y + ahead_right_y[direction]) == label) return direction;
    return (direction + 1) % 4;
  }

  Plane<const int> labels_;
  std::vector<unsigned char> seen_;
};

}  // namespace bm
