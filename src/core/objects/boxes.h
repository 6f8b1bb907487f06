// The boxes of some objects: first and last row, first and last column.
#pragma once
#include <algorithm>
#include <array>
#include <cstddef>
#include <vector>

namespace bm {

using Sides = std::array<std::size_t, 4>;

// `place[label]`: which of the boxes is the label's, or -1; labels beyond it have none.
inline void object_boxes(const int* labels, std::size_t rows, std::size_t cols,
                         const std::vector<int>& place, std::vector<Sides>& boxes) {
  for (Sides& box : boxes) box = {rows, 0, cols, 0};
  for (std::size_t c = 0; c < cols; ++c) {
    const int* column = labels + c * rows;
    for (std::size_t r = 0; r < rows; ++r) {
      const std::size_t label = static_cast<std::size_t>(column[r]);
      if (label == 0 || label >= place.size() || place[label] < 0) continue;
      Sides& box = boxes[static_cast<std::size_t>(place[label])];
      box = {std::min(box[0], r), std::max(box[1], r), std::min(box[2], c), std::max(box[3], c)};
    }
  }
}

}  // namespace bm
