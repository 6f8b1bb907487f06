// The pixels that a fit of steps goes through: those near the steps one by one, or put together
// where they have nearly one position, and those before and behind as sums.
#pragma once
#include <algorithm>
#include <cstddef>
#include <vector>

#include "../common/speed.h"
#include "near_pixels.h"

namespace bm {

// In lanes, so that compilers vectorise it and every machine adds in one order.
BM_CLONES inline double dot(const double* a, const double* b, std::size_t n) {
  double lane[8] = {0, 0, 0, 0, 0, 0, 0, 0};
  std::size_t i = 0;
  for (; i + 8 <= n; i += 8) {
    BM_UNROLL for (std::size_t k = 0; k < 8; ++k) lane[k] += a[i + k] * b[i + k];
  }
  for (; i < n; ++i) lane[i % 8] += a[i] * b[i];
  return ((lane[0] + lane[4]) + (lane[1] + lane[5])) + ((lane[2] + lane[6]) + (lane[3] + lane[7]));
}

// Pixels of level ground.
struct GroundSum {
  double n = 0, sum = 0, square = 0;
  void add(double v) {
    n += 1;
    sum += v;
    square += v * v;
  }
  double misfit(double level) const { return square - 2 * level * sum + n * level * level; }
};

class StepData {
 public:
  // Of every entry: position along the path, mean grey, number of pixels, and sums over them of
  // across x grey, across and across squared.
  std::vector<double> place, grey, count, lever, turned, spread, across;
  GroundSum before, behind;
  double within = 0;      // squares that entries of several pixels hide
  std::size_t total = 0;  // pixels in all

  std::size_t size() const { return place.size(); }

  // Pixels from `low` to `high` one by one, others as ground. With a `pitch` above zero those
  // within one are put together, which moves no place; what they differ by is noise only where they
  // have one position exactly, on paths along rows or columns.
  void take(const NearPixels& pixels, double low, double high, double pitch) {
    clear();
    total = pixels.size();
    for (std::size_t i = 0; i < pixels.size(); ++i) {
      const double t = pixels.along[i], w = pixels.across[i], g = pixels.grey[i];
      if (t < low)
        before.add(g);
      else if (t > high)
        behind.add(g);
      else
        add(t, w, g);
    }
    if (pitch > 0 && !place.empty()) merge(pitch);
  }

 private:
  void clear() {
    for (auto* v : {&place, &grey, &count, &lever, &turned, &spread, &across}) v->clear();
    before = behind = GroundSum{};
    within = 0;
  }

  void add(double t, double w, double g) {
    place.push_back(t);
    across.push_back(w);
    grey.push_back(g);
    count.push_back(1);
    lever.push_back(g * w);
    turned.push_back(w);
    spread.push_back(w * w);
  }

  void merge(double pitch) {
    const auto ends = std::minmax_element(place.begin(), place.end());
    const double first = *ends.first;
    const std::size_t bins = static_cast<std::size_t>((*ends.second - first) / pitch + 0.5) + 1;
    std::vector<double> squares(bins);
    StepData all;
    for (auto* v : {&all.place, &all.grey, &all.count, &all.lever, &all.turned, &all.spread})
      v->assign(bins, 0);
    for (std::size_t i = 0; i < size(); ++i) {
      const std::size_t k = static_cast<std::size_t>((place[i] - first) / pitch + 0.5);
      all.place[k] += place[i];
      all.grey[k] += grey[i];
      all.count[k] += 1;
      all.lever[k] += lever[i];
      all.turned[k] += turned[i];
      all.spread[k] += spread[i];
      squares[k] += grey[i] * grey[i];
    }
    std::size_t n = 0;
    for (std::size_t k = 0; k < bins; ++k) {
      if (all.count[k] == 0) continue;
      place[n] = all.place[k] / all.count[k];
      grey[n] = all.grey[k] / all.count[k];
      count[n] = all.count[k];
      lever[n] = all.lever[k];
      turned[n] = all.turned[k];
      spread[n++] = all.spread[k];
      within += squares[k] - all.grey[k] * all.grey[k] / all.count[k];
    }
    for (auto* v : {&place, &grey, &count, &lever, &turned, &spread}) v->resize(n);
    across.assign(n, 0);
  }
};

}  // namespace bm
