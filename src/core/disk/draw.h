// Outlines drawn into a picture of colours, line by line, as graphics devices hold it: a device of
// its own for every tile of a large picture takes longer than measuring it.
#pragma once
#include <algorithm>
#include <cmath>
#include <cstddef>
#include <cstdint>
#include <vector>

namespace bm {

struct Raster {
  std::uint32_t* data;
  std::ptrdiff_t rows, cols;
  void set(std::ptrdiff_t x, std::ptrdiff_t y, std::uint32_t colour) {
    if (x >= 0 && y >= 0 && x < cols && y < rows) data[y * cols + x] = colour;
  }
};

// A closed ring, two pixels wide; where it is dashed, six pixels are drawn and four are not.
inline void draw_ring(Raster to, const double* x, const double* y, std::size_t n,
                      std::uint32_t colour, bool dashed) {
  double run = 0;
  for (std::size_t i = 0; i < n; ++i) {
    const std::size_t j = i + 1 < n ? i + 1 : 0;
    const double dx = x[j] - x[i], dy = y[j] - y[i];
    const double length = std::max(std::fabs(dx), std::fabs(dy));
    const int steps = static_cast<int>(std::ceil(length));
    for (int k = 0; k < steps; ++k, run += length / steps) {
      if (dashed && std::fmod(run, 10) >= 6) continue;
      // of the two pixels the place lies between: half a pixel to either side
      const double t = static_cast<double>(k) / steps;
      const auto px = static_cast<std::ptrdiff_t>(std::floor(x[i] + t * dx - 0.5)),
                 py = static_cast<std::ptrdiff_t>(std::floor(y[i] + t * dy - 0.5));
      for (std::ptrdiff_t a = 0; a < 2; ++a)
        for (std::ptrdiff_t b = 0; b < 2; ++b) to.set(px + a, py + b, colour);
    }
  }
}

// One pixel of two by two, the mean of each colour; what is left over at the right and below of
// itself.
inline void halve(const Raster& from, Raster to) {
  for (std::ptrdiff_t y = 0; y < to.rows; ++y) {
    for (std::ptrdiff_t x = 0; x < to.cols; ++x) {
      const std::ptrdiff_t x2 = std::min(2 * x + 1, from.cols - 1),
                           y2 = std::min(2 * y + 1, from.rows - 1);
      const std::uint32_t four[4] = {
          from.data[2 * y * from.cols + 2 * x], from.data[2 * y * from.cols + x2],
          from.data[y2 * from.cols + 2 * x], from.data[y2 * from.cols + x2]};
      std::uint32_t mean = 0;
      for (int shift = 0; shift < 32; shift += 8) {
        std::uint32_t sum = 2;
        for (const std::uint32_t one : four) sum += one >> shift & 255;
        mean |= (sum / 4) << shift;
      }
      to.data[y * to.cols + x] = mean;
    }
  }
}

}  // namespace bm
