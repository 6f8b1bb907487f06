// Filling holes: background that is not joined (4-connected) to the frame becomes object.
#pragma once
#include "connect.h"

namespace bm {

// Fills holes of at most `largest` pixels; returns the number of pixels filled.
inline double fill_holes(BitPlane& bits, double largest) {
  std::vector<std::size_t> start;
  const std::vector<Run> runs = runs_of(bits, false, start);
  Unions unions(runs.size() + 1);
  const std::uint32_t frame = static_cast<std::uint32_t>(runs.size());
  join_columns(runs, start, 0, unions);
  for (std::size_t i = 0; i < runs.size(); ++i) {
    const Run& r = runs[i];
    const bool outer = r.col == 0 || static_cast<std::size_t>(r.col) + 1 == bits.cols ||
                       r.top == 0 || static_cast<std::size_t>(r.end) == bits.rows;
    if (outer) unions.join(static_cast<std::uint32_t>(i), frame);
  }
  std::vector<double> area(runs.size() + 1, 0);
  for (std::size_t i = 0; i < runs.size(); ++i)
    area[unions.root(static_cast<std::uint32_t>(i))] += runs[i].end - runs[i].top;
  const std::uint32_t outside = unions.root(frame);
  double filled = 0;
  for (std::size_t i = 0; i < runs.size(); ++i) {
    const std::uint32_t hole = unions.root(static_cast<std::uint32_t>(i));
    if (hole == outside || area[hole] > largest) continue;
    Word* column = bits.col(static_cast<std::size_t>(runs[i].col));
    for (std::size_t y = static_cast<std::size_t>(runs[i].top);
         y < static_cast<std::size_t>(runs[i].end); ++y)
      column[y / 64] |= Word{1} << (y % 64);
    filled += runs[i].end - runs[i].top;
  }
  return filled;
}

}  // namespace bm
