// Outlines of labelled objects along the pixel edges: every ring (outer, or round a hole) as its
// corners, in pixels from the outer corner of the top-left pixel.
#pragma once
#include <cmath>
#include <cstdint>
#include <vector>

#include "../common/plane.h"

namespace bm {

// Walks round every ring of every object, pixel edge by pixel edge, with the object on the right
// hand. Directions: 0 up, 1 right, 2 down, 3 left.
class RingWalk {
 public:
  explicit RingWalk(Plane<const int> labels) : labels_(labels), seen_(labels.size(), 0) {}

  // start(label), then step(x, y, direction, turns) for every edge from corner (x, y), `turns` when
  // the next edge runs in another direction, then end(hole); rings in the order of their first
  // pixels, column by column.
  template <class Start, class Step, class End>
  void all(Start start, Step step, End end) {
    for (std::size_t x = 0; x < labels_.cols; ++x) {
      for (std::size_t y = 0; y < labels_.rows; ++y) {
        const int here = labels_.col(x)[y];
        const ptrdiff_t i = static_cast<ptrdiff_t>(x), j = static_cast<ptrdiff_t>(y);
        if (here <= 0 || at(i - 1, j) == here || seen_[x * labels_.rows + y]) continue;
        start(here);
        end(walk(i, j, here, step));
      }
    }
  }

  bool inside(ptrdiff_t x, ptrdiff_t y) const {
    return x >= 0 && y >= 0 && x < static_cast<ptrdiff_t>(labels_.cols) &&
           y < static_cast<ptrdiff_t>(labels_.rows);
  }

 private:
  int at(ptrdiff_t x, ptrdiff_t y) const {
    return inside(x, y) ? labels_.col(static_cast<std::size_t>(x))[y] : 0;
  }

  // Starts at the left edge of pixel (px, py), walking up it; marks every left edge passed upward.
  // True for a hole.
  template <class Step>
  bool walk(ptrdiff_t px, ptrdiff_t py, int label, Step step) {
    static const int dx[4] = {0, 1, 0, -1}, dy[4] = {-1, 0, 1, 0};
    ptrdiff_t x = px, y = py + 1;
    int direction = 0;
    double twice_area = 0;
    do {
      if (direction == 0)
        seen_[static_cast<std::size_t>(x) * labels_.rows + static_cast<std::size_t>(y - 1)] = 1;
      const ptrdiff_t nx = x + dx[direction], ny = y + dy[direction];
      twice_area += static_cast<double>(dy[direction]) * static_cast<double>(nx);
      const int next = next_turn(nx, ny, direction, label);
      step(x, y, direction, next != direction);
      x = nx;
      y = ny;
      direction = next;
    } while (!(x == px && y == py + 1 && direction == 0));
    return twice_area < 0;
  }

  // At corner (x, y): the pixels ahead decide. Left first, so that objects joined at a corner stay
  // one ring.
  int next_turn(ptrdiff_t x, ptrdiff_t y, int direction, int label) const {
    static const int left_x[4] = {-1, 0, 0, -1}, left_y[4] = {-1, -1, 0, 0};
    static const int right_x[4] = {0, 0, -1, -1}, right_y[4] = {-1, 0, 0, -1};
    if (at(x + left_x[direction], y + left_y[direction]) == label) return (direction + 3) % 4;
    if (at(x + right_x[direction], y + right_y[direction]) == label) return direction;
    return (direction + 1) % 4;
  }

  Plane<const int> labels_;
  std::vector<unsigned char> seen_;
};

struct GridPoint {
  std::int32_t x, y;
};

struct Ring {
  int label;
  bool hole;
  std::vector<GridPoint> points;  // corners only; the last joins the first
};

inline std::vector<Ring> outlines(Plane<const int> labels) {
  std::vector<Ring> rings;
  static const int dx[4] = {0, 1, 0, -1}, dy[4] = {-1, 0, 1, 0};
  RingWalk(labels).all(
      [&](int label) {
        rings.push_back({label, false, {}});
      },
      [&](ptrdiff_t x, ptrdiff_t y, int direction, bool turns) {
        if (!turns) return;
        rings.back().points.push_back({static_cast<std::int32_t>(x + dx[direction]),
                                       static_cast<std::int32_t>(y + dy[direction])});
      },
      [&](bool hole) { rings.back().hole = hole; });
  return rings;
}

// Area enclosed by the holes of objects 1 .. count, in pixels.
inline std::vector<double> hole_areas(Plane<const int> labels, int count) {
  std::vector<double> area(static_cast<std::size_t>(count), 0);
  int label = 0;
  double twice = 0;
  RingWalk(labels).all(
      [&](int of) {
        label = of;
        twice = 0;
      },
      [&](ptrdiff_t x, ptrdiff_t, int direction, bool) {
        if (direction == 0) twice -= static_cast<double>(2 * x);
        if (direction == 2) twice += static_cast<double>(2 * x);
      },
      [&](bool hole) {
        if (hole) area[static_cast<std::size_t>(label) - 1] += std::fabs(twice) / 2;
      });
  return area;
}

}  // namespace bm
