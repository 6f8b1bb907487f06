// Structuring elements of morphology as vertical chords: for every column offset the rows from
// `low` to `high`.
#pragma once
#include <algorithm>
#include <cmath>
#include <stdexcept>
#include <vector>

namespace bm {

enum class Shape { disk, square, diamond, line };

struct Chord {
  int dx, low, high;
};

// Half chord of an ellipse (disk), rectangle or rhombus with half axes rx, ry at column offset dx.
// A radius given in a length unit must not lose a pixel to rounding.
inline int half_chord(Shape shape, double rx, double ry, int dx) {
  const double slack = 1e-9, share = rx > 0 ? std::min(1.0, std::abs(dx) / rx) : 0;
  const double part = shape == Shape::disk      ? std::sqrt(1 - share * share)
                      : shape == Shape::diamond ? 1 - share
                                                : 1;
  return static_cast<int>(std::floor(ry * part + slack));
}

// A line through the middle from (-x, -y) to (x, y), thin and without gaps: every offset along its
// longer axis once, from left to right.
inline std::vector<Chord> line_element(double x, double y) {
  if (x < 0) return line_element(-x, -y);
  const int steps = static_cast<int>(std::lround(std::max(std::abs(x), std::abs(y))));
  std::vector<Chord> chords;
  for (int k = -steps; k <= steps; ++k) {
    const double t = steps > 0 ? static_cast<double>(k) / steps : 0;
    const int dx = static_cast<int>(std::lround(t * x)), dy = static_cast<int>(std::lround(t * y));
    if (!chords.empty() && chords.back().dx == dx) {
      chords.back().low = std::min(chords.back().low, dy);
      chords.back().high = std::max(chords.back().high, dy);
    } else {
      chords.push_back({dx, dy, dy});
    }
  }
  return chords;
}

// For a line, (rx, ry) is its end; for the others they are the half axes. Whoever asks keeps to
// sizes that are of use; beyond these no chord could be numbered.
inline std::vector<Chord> element(Shape shape, double rx, double ry) {
  const double least = shape == Shape::line ? -1e6 : 0;
  if (!(rx >= least && rx <= 1e6 && ry >= least && ry <= 1e6))
    throw std::domain_error("an element beyond all pictures");
  if (shape == Shape::line) return line_element(rx, ry);
  std::vector<Chord> chords;
  const int reach = static_cast<int>(std::floor(rx + 1e-9));
  for (int dx = -reach; dx <= reach; ++dx) {
    const int half = half_chord(shape, rx, ry, dx);
    chords.push_back({dx, -half, half});
  }
  return chords;
}

// The different vertical extents among the chords, and for every chord which of them it has.
struct Extent {
  int low, high;
};
inline std::vector<Extent> extents_of(const std::vector<Chord>& chords,
                                      std::vector<std::size_t>& which) {
  std::vector<Extent> found;
  which.clear();
  for (const Chord& c : chords) {
    std::size_t k = 0;
    while (k < found.size() && (found[k].low != c.low || found[k].high != c.high)) ++k;
    if (k == found.size()) found.push_back({c.low, c.high});
    which.push_back(k);
  }
  return found;
}

}  // namespace bm
