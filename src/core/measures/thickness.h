// Local thickness: at every object pixel the diameter of the largest disc that lies within the
// object and covers the pixel (Hildebrand & Rueegsegger 1997). Discs are laid from the largest
// down, and each covers only what is still bare.
#pragma once
#include <algorithm>
#include <cmath>
#include <cstdint>
#include <vector>

#include "../common/large_pages.h"
#include "../common/plane.h"

namespace bm {

// For every column the next bare row at or after a row; covered rows are skipped.
class BareRows {
 public:
  explicit BareRows(std::size_t rows, std::size_t cols) : rows_(rows), next_((rows + 1) * cols) {
    for (std::size_t x = 0; x < cols; ++x)
      for (std::size_t y = 0; y <= rows; ++y)
        next_.data()[x * (rows + 1) + y] = static_cast<std::uint32_t>(y);
  }
  std::size_t at_or_after(std::size_t x, std::size_t y) {
    std::uint32_t* column = next_.data() + x * (rows_ + 1);
    while (column[y] != y) y = column[y] = column[column[y]];
    return y;
  }
  void cover(std::size_t x, std::size_t y) {
    next_.data()[x * (rows_ + 1) + y] = static_cast<std::uint32_t>(y + 1);
  }

 private:
  std::size_t rows_;
  Scratch<std::uint32_t> next_;
};

// A disc adds nothing when a neighbour's holds it: the neighbour is deeper by as much as it is
// away.
inline bool held_by_neighbour(Plane<const double> depth, std::size_t x, std::size_t y, double sx,
                              double sy) {
  const double own = depth.col(x)[y] - 1e-9, slanted = std::hypot(sx, sy);
  for (int dx = -1; dx <= 1; ++dx) {
    for (int dy = -1; dy <= 1; ++dy) {
      const std::size_t nx = x + static_cast<std::size_t>(dx),
                        ny = y + static_cast<std::size_t>(dy);
      if ((dx == 0 && dy == 0) || nx >= depth.cols || ny >= depth.rows) continue;
      if (depth.col(nx)[ny] >= own + (dx == 0 ? sy : dy == 0 ? sx : slanted)) return true;
    }
  }
  return false;
}

// depth: distance of object pixels to the background, 0 there; use(x, y, depth of the disc's
// middle) is called once an object pixel. A disc covers the pixel centres nearer to its middle than
// its depth.
template <class Use>
void local_thickness(Plane<const double> depth, double sx, double sy, Use use) {
  std::vector<std::uint32_t> middles;
  for (std::size_t x = 0; x < depth.cols; ++x)
    for (std::size_t y = 0; y < depth.rows; ++y)
      if (depth.col(x)[y] > 0 && !held_by_neighbour(depth, x, y, sx, sy))
        middles.push_back(static_cast<std::uint32_t>(x * depth.rows + y));
  std::stable_sort(middles.begin(), middles.end(),
                   [&](std::uint32_t a, std::uint32_t b) { return depth.data[a] > depth.data[b]; });
  BareRows bare(depth.rows, depth.cols);
  for (std::uint32_t i : middles) {
    const double r = depth.data[i];
    const ptrdiff_t x = static_cast<ptrdiff_t>(i / depth.rows),
                    y = static_cast<ptrdiff_t>(i % depth.rows);
    const ptrdiff_t reach =
        static_cast<ptrdiff_t>(std::min(std::ceil(r / sx), static_cast<double>(depth.cols)));
    for (ptrdiff_t at = std::max<ptrdiff_t>(0, x - reach);
         at <= std::min(static_cast<ptrdiff_t>(depth.cols) - 1, x + reach); ++at) {
      const double off = static_cast<double>(at - x) * sx, left = r * r - off * off;
      if (left <= 0) continue;
      // centres strictly nearer than r
      const ptrdiff_t half = static_cast<ptrdiff_t>(std::min(std::ceil(std::sqrt(left) / sy - 1e-9),
                                                             static_cast<double>(depth.rows))) -
                             1;
      const std::size_t end = static_cast<std::size_t>(
                            std::min(static_cast<ptrdiff_t>(depth.rows) - 1, y + half) + 1),
                        col = static_cast<std::size_t>(at);
      for (std::size_t row =
               bare.at_or_after(col, static_cast<std::size_t>(std::max<ptrdiff_t>(0, y - half)));
           row < end; row = bare.at_or_after(col, row)) {
        use(col, row, r);
        bare.cover(col, row);
      }
    }
  }
}

}  // namespace bm
