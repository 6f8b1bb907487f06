// Least squares of a pose on how far edges lie off, with weights after Tukey: what does not belong
// to the part does not pull at it.
#pragma once
#include <algorithm>
#include <array>
#include <cmath>
#include <cstddef>
#include <vector>

namespace bm {

using std::ptrdiff_t;
using std::size_t;

using Four = std::array<double, 4>;  // x, y, turn, log of scale

struct PoseFit {
  bool good = false;
  Four step{};
  std::array<double, 16> covariance{};
};

// One edge: how far off it lies, and how that changes with the pose.
struct Pull {
  Four change;
  double off;
};

struct WeightedSums {
  std::array<double, 16> normal{};
  Four right{};
  double squares = 0, weights = 0;
};

inline double dot(const Four& a, const Four& b) {
  return a[0] * b[0] + a[1] * b[1] + a[2] * b[2] + a[3] * b[3];
}

// Inverse of a symmetric matrix by Gauss and Jordan. What nothing depends on is held where it is; a
// little weight on the place keeps it from running off along parallel edges.
inline bool inverted(std::array<double, 16> a, std::array<double, 16>& out) {
  out = {};
  const double size = a[0] + a[5];
  if (!(size > 0)) return false;
  for (size_t i = 0; i < 4; ++i) {
    out[5 * i] = 1;
    if (a[5 * i] <= 1e-9 * size) a[5 * i] = 1e12 * size;
    if (i < 2) a[5 * i] += 1e-6 * size;
  }
  for (size_t i = 0; i < 4; ++i) {
    const double pivot = a[5 * i];
    if (!(std::fabs(pivot) > 0)) return false;
    for (size_t j = 0; j < 4; ++j) {
      a[4 * i + j] /= pivot;
      out[4 * i + j] /= pivot;
    }
    for (size_t k = 0; k < 4; ++k) {
      if (k == i) continue;
      const double f = a[4 * k + i];
      for (size_t j = 0; j < 4; ++j) {
        a[4 * k + j] -= f * a[4 * i + j];
        out[4 * k + j] -= f * out[4 * i + j];
      }
    }
  }
  return true;
}

// Weights fall to zero at 4.685 standard deviations, as the median of the distances has them.
inline WeightedSums weighted_sums(const std::vector<Pull>& pulls, const Four& step) {
  std::vector<double> away(pulls.size());
  for (size_t k = 0; k < pulls.size(); ++k)
    away[k] = std::fabs(pulls[k].off - dot(pulls[k].change, step));
  std::vector<double> sorted = away;
  const auto middle = sorted.begin() + static_cast<ptrdiff_t>(sorted.size() / 2);
  std::nth_element(sorted.begin(), middle, sorted.end());
  const double beyond = 4.685 * std::max(1.4826 * *middle, 0.02);
  WeightedSums sums;
  for (size_t k = 0; k < pulls.size(); ++k) {
    const double t = away[k] / beyond;
    if (t >= 1) continue;
    const double w = (1 - t * t) * (1 - t * t);
    const Four& row = pulls[k].change;
    for (size_t i = 0; i < 4; ++i) {
      sums.right[i] += w * row[i] * pulls[k].off;
      for (size_t j = 0; j < 4; ++j) sums.normal[4 * i + j] += w * row[i] * row[j];
    }
    sums.squares += w * away[k] * away[k];
    sums.weights += w;
  }
  return sums;
}

// `alike`: how many neighbours see the same noise, by which the variance grows.
inline PoseFit fit_pose(const std::vector<Pull>& pulls, size_t unknowns, double alike) {
  PoseFit fit;
  if (pulls.size() < unknowns + 2) return fit;
  for (int pass = 0; pass < 4; ++pass) {
    const WeightedSums sums = weighted_sums(pulls, fit.step);
    std::array<double, 16> inverse{};
    if (!inverted(sums.normal, inverse)) return fit;
    for (size_t i = 0; i < 4; ++i) {
      fit.step[i] = 0;
      for (size_t j = 0; j < 4; ++j) fit.step[i] += inverse[4 * i + j] * sums.right[j];
    }
    const double left = std::max(sums.weights - static_cast<double>(unknowns), 1.0);
    for (size_t i = 0; i < 16; ++i) fit.covariance[i] = inverse[i] * sums.squares / left * alike;
  }
  fit.good = true;
  return fit;
}

}  // namespace bm
