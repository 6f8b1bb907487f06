// Pictures of colours, line by line, as graphics devices hold them: overlays and tiles are drawn
// into them directly, since a device takes longer to draw a picture with its outlines than
// measuring it.
#pragma once
#include <algorithm>
#include <cmath>
#include <cstddef>
#include <cstdint>
#include <vector>

#include "../common/plane.h"
#include "../field/by_row.h"

namespace bm {

struct Raster {
  std::uint32_t* data;
  std::ptrdiff_t rows, cols;
};

// What is there, and so much of 255 of a colour over it.
inline std::uint32_t blended(std::uint32_t there, std::uint32_t colour, std::uint32_t cover) {
  std::uint32_t out = 0xFF000000;
  for (int shift = 0; shift < 24; shift += 8) {
    const std::uint32_t a = there >> shift & 255, b = colour >> shift & 255;
    out |= (a * (255 - cover) + b * cover + 127) / 255 << shift;
  }
  return out;
}

// Greys as opaque colours.
inline void grey_raster(Plane<const double> grey, double scale, Raster to) {
  by_row(grey, to.data, [=](double level) {
    return std::uint32_t{code_of<std::uint8_t>(level, scale, 255)} * 0x10101 + 0xFF000000;
  });
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

// A picture at another size: every pixel of the page within the box from (left, top) on takes that
// of the picture that it lies in.
inline void put_scaled(const Raster& from, Raster page, double left, double top, double width,
                       double height) {
  auto first = [](double at) { return static_cast<std::ptrdiff_t>(std::ceil(at - 0.5)); };
  const std::ptrdiff_t x0 = std::max<std::ptrdiff_t>(first(left), 0),
                       x1 = std::min(first(left + width), page.cols),
                       y0 = std::max<std::ptrdiff_t>(first(top), 0),
                       y1 = std::min(first(top + height), page.rows);
  auto source = [](std::ptrdiff_t at, double start, double size, std::ptrdiff_t count) {
    const double place = (static_cast<double>(at) + 0.5 - start) / size;
    return std::min(static_cast<std::ptrdiff_t>(place * static_cast<double>(count)), count - 1);
  };
  std::vector<std::ptrdiff_t> x_of;
  for (std::ptrdiff_t x = x0; x < x1; ++x) x_of.push_back(source(x, left, width, from.cols));
  for (std::ptrdiff_t y = y0; y < y1; ++y) {
    const std::uint32_t* line = from.data + source(y, top, height, from.rows) * from.cols;
    std::uint32_t* to = page.data + y * page.cols + x0;
    for (const std::ptrdiff_t x : x_of) *to++ = line[x];
  }
}

// What was written on white, from (from_x, from_y) on, over a part of the page that is paled first
// so much of 255.
inline void put_letters(const Raster& letters, Raster page, std::ptrdiff_t from_x,
                        std::ptrdiff_t from_y, std::ptrdiff_t to_x, std::ptrdiff_t to_y,
                        std::ptrdiff_t cols, std::ptrdiff_t rows, std::uint32_t pale) {
  for (std::ptrdiff_t y = 0; y < rows; ++y) {
    if (to_y + y < 0 || to_y + y >= page.rows) continue;
    for (std::ptrdiff_t x = 0; x < cols; ++x) {
      if (to_x + x < 0 || to_x + x >= page.cols) continue;
      std::uint32_t& there = page.data[(to_y + y) * page.cols + to_x + x];
      const std::uint32_t ink = letters.data[(from_y + y) * letters.cols + from_x + x],
                          under = pale ? blended(there, 0xFFFFFF, pale) : there;
      if (ink == 0xFFFFFFFF) {
        there = under;
        continue;
      }
      std::uint32_t out = 0xFF000000;
      for (int shift = 0; shift < 24; shift += 8)
        out |= ((under >> shift & 255) * (ink >> shift & 255) + 127) / 255 << shift;
      there = out;
    }
  }
}

}  // namespace bm
