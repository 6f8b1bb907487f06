// Greys as a page draws them: row by row, in codes of one or two bytes.
#pragma once
#include <algorithm>
#include <cstddef>
#include <cstdint>

#include "../common/plane.h"

namespace bm {

template <class Code>
Code code_of(double grey, double scale, double top) {
  const double code = grey * scale + 0.5;
  return code >= 1 ? static_cast<Code>(std::min(code, top)) : Code(0);
}

// Means of squares of `times` pixels, those at the right and lower side of what is left.
template <class Code>
void shrunk_by_row(Plane<const double> grey, std::size_t times, double scale, double top,
                   Code* out) {
  const std::size_t rows = (grey.rows + times - 1) / times, cols = (grey.cols + times - 1) / times;
  for (std::size_t x = 0; x < cols; ++x) {
    const std::size_t left = x * times, right = std::min(left + times, grey.cols);
    for (std::size_t y = 0; y < rows; ++y) {
      const std::size_t upper = y * times, lower = std::min(upper + times, grey.rows);
      double sum = 0;
      for (std::size_t i = left; i < right; ++i) {
        for (std::size_t j = upper; j < lower; ++j) sum += grey.col(i)[j];
      }
      const double count = static_cast<double>((right - left) * (lower - upper));
      out[y * cols + x] = code_of<Code>(sum / count, scale, top);
    }
  }
}

// What `made` makes of every grey, row by row. In squares, so that neither side jumps from page to
// page of memory.
template <class Out, class Made>
void by_row(Plane<const double> grey, Out* out, Made made) {
  const std::size_t side = 64;
  for (std::size_t left = 0; left < grey.cols; left += side) {
    const std::size_t right = std::min(left + side, grey.cols);
    for (std::size_t upper = 0; upper < grey.rows; upper += side) {
      const std::size_t lower = std::min(upper + side, grey.rows);
      for (std::size_t y = upper; y < lower; ++y) {
        Out* row = out + y * grey.cols;
        for (std::size_t x = left; x < right; ++x) row[x] = made(grey.data[x * grey.rows + y]);
      }
    }
  }
}

// code = grey * scale, rounded and kept within the code; what is no number becomes 0.
template <class Code>
void greys_by_row(Plane<const double> grey, double scale, double top, Code* out) {
  by_row(grey, out, [=](double level) { return code_of<Code>(level, scale, top); });
}

}  // namespace bm
