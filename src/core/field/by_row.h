// Greys as a page draws them: row by row, in codes of one or two bytes.
#pragma once
#include <algorithm>
#include <cstddef>
#include <cstdint>

#include "../common/plane.h"

namespace bm {

// code = grey * scale, rounded and kept within the code; what is no number becomes 0. In squares,
// so that neither side jumps from page to page of memory.
template <class Code>
void greys_by_row(Plane<const double> grey, double scale, double top, Code* out) {
  const std::size_t side = 64;
  for (std::size_t left = 0; left < grey.cols; left += side) {
    const std::size_t right = std::min(left + side, grey.cols);
    for (std::size_t upper = 0; upper < grey.rows; upper += side) {
      const std::size_t lower = std::min(upper + side, grey.rows);
      for (std::size_t y = upper; y < lower; ++y) {
        Code* row = out + y * grey.cols;
        for (std::size_t x = left; x < right; ++x) {
          const double code = grey.data[x * grey.rows + y] * scale + 0.5;
          row[x] = code >= 1 ? static_cast<Code>(std::min(code, top)) : Code(0);
        }
      }
    }
  }
}

}  // namespace bm
