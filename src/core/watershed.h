// Parting touching objects: the object pixels are flooded from the highest distance down; two
// basins that meet stay apart when the lower of their peaks rises at least `depth` above the
// pass, and are one object otherwise (peaks by dynamics: Grimaud 1992; flooding in order of
// height: Vincent & Soille 1991).
#pragma once
#include <algorithm>
#include <cmath>
#include <cstdint>
#include <cstring>
#include <vector>

#include "connect.h"

namespace bm {

// Pixel numbers with a finite positive value, highest first; equal heights in order of position.
inline std::vector<std::uint32_t> by_height(Plane<const float> height) {
  std::vector<std::uint32_t> order, other;
  for (size_t i = 0; i < height.size(); ++i)
    if (height.data[i] > 0) order.push_back(static_cast<std::uint32_t>(i));
  other.resize(order.size());
  auto key = [&](std::uint32_t i) {  // positive floats sort as their bits do; complement for highest first
    std::uint32_t bits;
    std::memcpy(&bits, &height.data[i], sizeof bits);
    return ~bits;
  };
  for (int byte = 0; byte < 4; ++byte) {
    size_t start[257] = {0};
    for (std::uint32_t i : order) ++start[((key(i) >> (8 * byte)) & 255) + 1];
    for (int k = 0; k < 256; ++k) start[k + 1] += start[k];
    for (std::uint32_t i : order) other[start[(key(i) >> (8 * byte)) & 255]++] = i;
    order.swap(other);
  }
  return order;
}

// squared: squared distances; labels receives 1 .. n in reading order. Returns n.
inline int watershed(Plane<const float> squared, double depth, Plane<int> labels) {
  const std::vector<std::uint32_t> order = by_height(squared);
  const size_t rows = squared.rows, cols = squared.cols;
  std::fill(labels.data, labels.data + labels.size(), 0);
  Unions basins(order.size() + 1);  // basin k is known by the k-th pixel that starts one
  std::vector<float> peak(1, 0.0f);
  auto height_of = [](float s) { return std::sqrt(s); };

  for (std::uint32_t i : order) {
    const size_t x = i / rows, y = i % rows;
    const float here = height_of(squared.data[i]);
    std::uint32_t mine = 0;
    for (int pass = 0; pass < 2; ++pass) {  // edge neighbours first: they are the nearer ones
      for (int dx = -1; dx <= 1; ++dx) {
        for (int dy = -1; dy <= 1; ++dy) {
          if ((dx != 0 && dy != 0) != (pass == 1) || (dx == 0 && dy == 0)) continue;
          const size_t nx = x + static_cast<size_t>(dx), ny = y + static_cast<size_t>(dy);
          if (nx >= cols || ny >= rows) continue;
          const int there = labels.data[nx * rows + ny];
          if (there == 0) continue;
          const std::uint32_t basin = basins.root(static_cast<std::uint32_t>(there));
          if (mine == 0) { mine = basin; continue; }
          if (basin == mine) continue;
          const float lower = std::min(peak[mine], peak[basin]);
          if (lower - here >= static_cast<float>(depth)) {
            continue;
          }
          const float higher = std::max(peak[mine], peak[basin]);
          basins.join(mine, basin);
          mine = basins.root(mine);
          peak[mine] = higher;
        }
      }
    }
    if (mine == 0) {
      peak.push_back(here);
      mine = static_cast<std::uint32_t>(peak.size() - 1);
    }
    labels.data[i] = static_cast<int>(mine);
  }

  std::vector<int> number(peak.size(), 0);
  std::vector<std::pair<std::uint32_t, std::uint32_t>> first(peak.size(), {UINT32_MAX, UINT32_MAX});
  for (std::uint32_t i : order) {
    const std::uint32_t basin = basins.root(static_cast<std::uint32_t>(labels.data[i]));
    labels.data[i] = static_cast<int>(basin);
    const std::pair<std::uint32_t, std::uint32_t> here(i % rows, i / rows);
    if (here < first[basin]) first[basin] = here;
  }
  std::vector<std::uint32_t> kept;
  for (std::uint32_t k = 1; k < peak.size(); ++k)
    if (first[k].first != UINT32_MAX) kept.push_back(k);
  std::sort(kept.begin(), kept.end(), [&](std::uint32_t a, std::uint32_t b) { return first[a] < first[b]; });
  for (size_t k = 0; k < kept.size(); ++k) number[kept[k]] = static_cast<int>(k + 1);
  for (std::uint32_t i : order) labels.data[i] = number[static_cast<size_t>(labels.data[i])];
  return static_cast<int>(kept.size());
}

}  // namespace bm
