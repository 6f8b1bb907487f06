// Labels numbered 1, 2, ... in reading order: by the row, then the column, of their topmost pixel.
#pragma once
#include <algorithm>
#include <vector>

#include "../common/plane.h"

namespace bm {

// The old label of each new one. Labels below 1 become 0.
inline std::vector<int> renumber(Plane<const int> labels, Plane<int> out) {
  const std::size_t none = labels.rows;
  std::vector<std::size_t> top, left;
  for (std::size_t x = 0; x < labels.cols; ++x) {
    for (std::size_t y = 0; y < labels.rows; ++y) {
      const int label = labels.col(x)[y];
      if (label <= 0) continue;
      const std::size_t k = static_cast<std::size_t>(label) - 1;
      if (k >= top.size()) {
        top.resize(k + 1, none);
        left.resize(k + 1, 0);
      }
      if (y >= top[k]) continue;
      top[k] = y;
      left[k] = x;
    }
  }
  std::vector<int> order;
  for (std::size_t k = 0; k < top.size(); ++k)
    if (top[k] < none) order.push_back(static_cast<int>(k) + 1);
  std::sort(order.begin(), order.end(), [&](int a, int b) {
    const std::size_t i = static_cast<std::size_t>(a) - 1, j = static_cast<std::size_t>(b) - 1;
    return top[i] < top[j] || (top[i] == top[j] && left[i] < left[j]);
  });
  std::vector<int> number(top.size() + 1, 0);
  for (std::size_t k = 0; k < order.size(); ++k)
    number[static_cast<std::size_t>(order[k])] = static_cast<int>(k) + 1;
  for (std::size_t i = 0; i < labels.size(); ++i)
    out.data[i] = labels.data[i] > 0 ? number[static_cast<std::size_t>(labels.data[i])] : 0;
  return order;
}

}  // namespace bm
