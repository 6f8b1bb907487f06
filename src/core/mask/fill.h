// Filling holes: background that is not joined (4-connected) to the frame becomes object.
#pragma once
#include <limits>
#include <vector>

#include "connect.h"

namespace bm {

// Fills holes of at most `largest` pixels; returns the number of pixels filled.
inline double fill_holes(BitPlane& bits, double largest) {
  Unions unions;
  std::vector<double> area;  // of the runs of an id, infinite at the frame
  walk_runs(
      bits, false, 0,
      [&] {
        area.push_back(0);
        return unions.add();
      },
      [&](std::uint32_t a, std::uint32_t b) { unions.join(a, b); },
      [&](const Run& r, std::uint32_t id) {
        const bool outer = r.col == 0 || static_cast<std::size_t>(r.col) + 1 == bits.cols ||
                           r.top == 0 || static_cast<std::size_t>(r.end) == bits.rows;
        area[id] += outer ? std::numeric_limits<double>::infinity() : r.end - r.top;
      });
  for (std::uint32_t id = 0; id < area.size(); ++id)
    if (unions.root(id) != id) area[unions.root(id)] += area[id];
  double filled = 0;
  // the walk sees a column before it is changed
  std::uint32_t next = 0;
  walk_runs(
      bits, false, 0, [&] { return next++; }, [](std::uint32_t, std::uint32_t) {},
      [&](const Run& r, std::uint32_t id) {
        const double hole = area[unions.root(id)];
        if (!(hole < std::numeric_limits<double>::infinity()) || hole > largest) return;
        set_run(bits, r);
        filled += r.end - r.top;
      });
  return filled;
}

}  // namespace bm
