// A smaller picture: every new pixel is the mean over a square of old ones, parts of pixels counted
// as parts.
#pragma once
#include <algorithm>
#include <cmath>
#include <vector>

#include "../common/plane.h"
#include "../common/speed.h"

namespace bm {

// Old pixels [first, first + weight.size()) that make up one new pixel along one axis.
struct Share {
  std::size_t first;
  std::vector<double> weight;
};

inline std::vector<Share> shares_of(std::size_t size, std::size_t count, double times) {
  std::vector<Share> out(count);
  for (std::size_t k = 0; k < count; ++k) {
    const double from = static_cast<double>(k) * times,
                 to = std::min(from + times, static_cast<double>(size));
    out[k].first = std::min(static_cast<std::size_t>(from), size - 1);
    const std::size_t last = std::min(static_cast<std::size_t>(std::ceil(to)), size);
    for (std::size_t i = out[k].first; i < last; ++i) {
      const double at = static_cast<double>(i);
      out[k].weight.push_back((std::min(at + 1, to) - std::max(at, from)) / (to - from));
    }
  }
  return out;
}

BM_CLONES inline void add_weighted(const double* from, double weight, std::size_t n, double* to) {
  for (std::size_t i = 0; i < n; ++i) to[i] += weight * from[i];
}

inline void shrink(Plane<const double> in, Plane<double> out, double times) {
  const std::vector<Share> across = shares_of(in.cols, out.cols, times),
                           down = shares_of(in.rows, out.rows, times);
  std::vector<double> column(in.rows);
  for (std::size_t x = 0; x < out.cols; ++x) {
    std::fill(column.begin(), column.end(), 0.0);
    for (std::size_t i = 0; i < across[x].weight.size(); ++i) {
      add_weighted(in.col(across[x].first + i), across[x].weight[i], in.rows, column.data());
    }
    double* to = out.col(x);
    for (std::size_t y = 0; y < out.rows; ++y) {
      double sum = 0;
      for (std::size_t i = 0; i < down[y].weight.size(); ++i)
        sum += down[y].weight[i] * column[down[y].first + i];
      to[y] = sum;
    }
  }
}

}  // namespace bm
