// A taught pattern, and where it may lie in a picture. Points of its contour are relative to its
// reference, in pixels across of the picture searched and as many down (`aspect` turns those into
// its own rows); directions are those in which the picture brightens. Turns are counter-clockwise
// as seen, in radians.
#pragma once
#include <cmath>
#include <cstddef>
#include <cstdint>
#include <vector>

namespace bm {

struct TaughtPoint {
  double x, y;    // from the reference
  double nx, ny;  // direction of the slope, of length one
  double slope;   // how steep it is, beside the pattern's other points
};

// The points of one level of the pyramid.
struct PatternLevel {
  int level;
  std::vector<TaughtPoint> points;
};

struct Pattern {
  std::vector<PatternLevel> levels;  // finest first
  double aspect;                     // height of a pixel over its width
  double spacing;                    // of the finest level's points along the contour
};

struct Pose {
  double x, y, turn, scale;
};

struct Candidate {
  Pose pose;
  double likeness;  // 0 to 1
};

// Turns within [low, high] and scales within [small, large].
struct PoseRange {
  double low, high, small, large;
  bool turns() const { return high > low; }
  bool scales() const { return large > small; }
};

// What a pose does to points and directions.
class Placing {
 public:
  Placing(const Pose& pose, double aspect)
      : pose_(pose), aspect_(aspect), cos_(std::cos(pose.turn)), sin_(std::sin(pose.turn)) {}

  struct Point {
    double x, y, nx, ny;
  };
  Point operator()(const TaughtPoint& p) const {
    const double s = pose_.scale, x = pose_.x + s * (cos_ * p.x + sin_ * p.y),
                 y = pose_.y + s * (cos_ * p.y - sin_ * p.x) / aspect_;
    const double nx = cos_ * p.nx + sin_ * p.ny, ny = (cos_ * p.ny - sin_ * p.nx) * aspect_;
    if (aspect_ == 1) return {x, y, nx, ny};  // a turn keeps their length
    const double size = std::sqrt(nx * nx + ny * ny);
    return {x, y, nx / size, ny / size};
  }

 private:
  Pose pose_;
  double aspect_, cos_, sin_;
};

constexpr double full_turn = 6.283185307179586;

// The same turn in (-half, half].
inline double wrapped(double turn, double period = full_turn) {
  turn -= period * std::floor(turn / period + 0.5);
  return turn;
}

}  // namespace bm
