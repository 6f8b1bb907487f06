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

// Orders pixel numbers by height, highest first; equal heights in order of position, so that basins meet halfway.
class HeightOrder {
 public:
  explicit HeightOrder(Plane<const float> height) : height_(height) {}
  void sort(std::uint32_t* first, std::uint32_t* last) {
    const size_t n = static_cast<size_t>(last - first);
    other_.resize(std::max(other_.size(), n));
    std::uint32_t *from = first, *to = other_.data();
    for (int byte = 0; byte < 4; ++byte) {
      size_t start[257] = {0};
      for (size_t i = 0; i < n; ++i) ++start[((key(from[i]) >> (8 * byte)) & 255) + 1];
      if (start[((key(from[0]) >> (8 * byte)) & 255) + 1] == n) continue;  // all alike in this byte
      for (int k = 0; k < 256; ++k) start[k + 1] += start[k];
      for (size_t i = 0; i < n; ++i) to[start[(key(from[i]) >> (8 * byte)) & 255]++] = from[i];
      std::swap(from, to);
    }
    if (from != first) std::copy(from, from + n, first);
  }

 private:
  std::uint32_t key(std::uint32_t i) const {  // positive floats sort as their bits do; complement for highest first
    std::uint32_t bits;
    std::memcpy(&bits, &height_.data[i], sizeof bits);
    return ~bits;
  }
  Plane<const float> height_;
  std::vector<std::uint32_t> other_;
};

// Object pixels grouped by connected component, in order of position within each; start[k] is where component k begins.
inline std::vector<std::uint32_t> by_component(Plane<const int> component, int count, std::vector<size_t>& start) {
  start.assign(static_cast<size_t>(count) + 2, 0);
  for (size_t i = 0; i < component.size(); ++i) ++start[static_cast<size_t>(component.data[i]) + 1];
  start[1] = 0;  // the background is left out
  for (size_t k = 1; k < start.size(); ++k) start[k] += start[k - 1];
  std::vector<std::uint32_t> order(start.back());
  std::vector<size_t> next(start);
  for (size_t i = 0; i < component.size(); ++i) {
    const size_t c = static_cast<size_t>(component.data[i]);
    if (c > 0) order[next[c]++] = static_cast<std::uint32_t>(i);
  }
  return order;
}

// Basins by the numbers of their first pixels in reading order. Returns how many.
inline int number_basins(Plane<int> labels, Unions& basins, size_t known) {
  std::vector<int> root(known, 0), number(known, 0);
  for (size_t k = 1; k < known; ++k) root[k] = static_cast<int>(basins.root(static_cast<std::uint32_t>(k)));
  std::vector<std::pair<std::uint32_t, std::uint32_t>> first(known, {UINT32_MAX, UINT32_MAX});
  for (size_t x = 0; x < labels.cols; ++x) {
    int* column = labels.col(x);
    for (size_t y = 0; y < labels.rows; ++y) {
      if (column[y] == 0) continue;
      const size_t basin = static_cast<size_t>(column[y] = root[static_cast<size_t>(column[y])]);
      const std::pair<std::uint32_t, std::uint32_t> here(y, x);
      if (here < first[basin]) first[basin] = here;
    }
  }
  std::vector<std::uint32_t> kept;
  for (std::uint32_t k = 1; k < known; ++k)
    if (first[k].first != UINT32_MAX) kept.push_back(k);
  std::sort(kept.begin(), kept.end(), [&](std::uint32_t a, std::uint32_t b) { return first[a] < first[b]; });
  for (size_t k = 0; k < kept.size(); ++k) number[kept[k]] = static_cast<int>(k + 1);
  for (size_t i = 0; i < labels.size(); ++i) labels.data[i] = number[static_cast<size_t>(labels.data[i])];
  return static_cast<int>(kept.size());
}

// squared: squared distances; labels holds the connected components 1 .. components and receives 1 .. n in reading order.
// Returns n. One component after the other is flooded, so that its pixels stay in the cache.
inline int watershed(Plane<const float> squared, double depth, Plane<int> labels, int components) {
  std::vector<size_t> start;
  std::vector<std::uint32_t> order = by_component({labels.data, labels.rows, labels.cols}, components, start);
  HeightOrder heights(squared);
  for (size_t k = 1; k + 1 < start.size(); ++k)
    if (start[k + 1] > start[k]) heights.sort(order.data() + start[k], order.data() + start[k + 1]);
  const size_t rows = squared.rows, cols = squared.cols;
  std::fill(labels.data, labels.data + labels.size(), 0);
  Unions basins(order.size() + 1);  // basin k is known by the k-th pixel that starts one
  std::vector<float> peak(1, 0.0f);
  auto height_of = [](float s) { return std::sqrt(s); };

  // edge neighbours first: they are the nearer ones
  static const int dx[8] = {-1, 0, 0, 1, -1, -1, 1, 1}, dy[8] = {0, -1, 1, 0, -1, 1, -1, 1};
  ptrdiff_t step[8];
  for (int k = 0; k < 8; ++k) step[k] = dx[k] * static_cast<ptrdiff_t>(rows) + dy[k];
  const std::uint32_t tall = static_cast<std::uint32_t>(rows);
  for (std::uint32_t i : order) {
    const size_t x = i / tall, y = i % tall;
    const bool inner = x > 0 && y > 0 && x + 1 < cols && y + 1 < rows;
    const float here = height_of(squared.data[i]);
    std::uint32_t mine = 0;
    int seen = 0;  // label of the neighbour looked at last: most have the same
    for (int k = 0; k < 8; ++k) {
      if (!inner && (x + static_cast<size_t>(dx[k]) >= cols || y + static_cast<size_t>(dy[k]) >= rows)) continue;
      const int there = labels.data[static_cast<ptrdiff_t>(i) + step[k]];
      if (there == 0 || there == seen) continue;
      seen = there;
      const std::uint32_t basin = basins.root(static_cast<std::uint32_t>(there));
      if (mine == 0) { mine = basin; continue; }
      if (basin == mine) continue;
      const float lower = std::min(peak[mine], peak[basin]);
      if (lower - here >= static_cast<float>(depth)) continue;
      const float higher = std::max(peak[mine], peak[basin]);
      basins.join(mine, basin);
      mine = basins.root(mine);
      peak[mine] = higher;
    }
    if (mine == 0) {
      peak.push_back(here);
      mine = static_cast<std::uint32_t>(peak.size() - 1);
    }
    labels.data[i] = static_cast<int>(mine);
  }
  return number_basins(labels, basins, peak.size());
}

}  // namespace bm
