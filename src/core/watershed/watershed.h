// Parting touching objects: every connected component is flooded by itself (`flood.h`), components
// shared among threads.
#pragma once
#include <algorithm>
#include <cstring>
#include <vector>

#include "flood.h"
#include "../objects/label.h"
#include "../common/parallel.h"

namespace bm {

// Numbers in reading order for places that come in any order.
inline std::vector<int> reading_order(const std::vector<Place>& places) {
  std::vector<std::uint32_t> order(places.size());
  for (std::size_t k = 0; k < order.size(); ++k) order[k] = static_cast<std::uint32_t>(k);
  std::sort(order.begin(), order.end(),
            [&](std::uint32_t a, std::uint32_t b) { return places[a] < places[b]; });
  std::vector<int> number(places.size());
  for (std::size_t k = 0; k < order.size(); ++k) number[order[k]] = static_cast<int>(k + 1);
  return number;
}

struct Parted {
  int components, count;
};

// labels receives 0 and 1 .. count in reading order.
template <class Interrupt>
Parted watershed(const BitPlane& bits, const Ground& ground, Plane<int> labels, int threads,
                 Interrupt interrupt) {
  const ObjectRuns found = object_runs(bits);
  const Grouped<Run> groups = by_object(found.runs, found.object, found.count);
  const std::vector<std::size_t>& start = groups.start;
  const std::size_t components = groups.label.size();
  over_columns(
      labels.cols, threads, 1,
      [&](std::size_t first, std::size_t last, auto) {
        std::memset(labels.col(first), 0, (last - first) * labels.rows * sizeof(int));
      },
      interrupt);
  std::vector<std::vector<Place>> places(components);
  over_columns(
      components, threads, 1,
      [&](std::size_t first, std::size_t last, auto pause) {
        Flood flood(ground);
        for (std::size_t k = first; k < last; ++k) {
          places[k] =
              flood.run(groups.items.data() + start[k], groups.items.data() + start[k + 1], labels);
          if (k % 256 == 0) pause();
        }
      },
      interrupt);
  std::vector<Place> all;
  std::vector<std::size_t> offset(components);
  for (std::size_t k = 0; k < components; ++k) {
    offset[k] = all.size();
    all.insert(all.end(), places[k].begin(), places[k].end());
  }
  const std::vector<int> number = reading_order(all);
  over_columns(
      components, threads, 1,
      [&](std::size_t first, std::size_t last, auto) {
        for (std::size_t k = first; k < last; ++k) {
          const int* mine = number.data() + offset[k];
          for (std::size_t i = start[k]; i < start[k + 1]; ++i) {
            const Run& r = groups.items[i];
            int* column = labels.col(static_cast<std::size_t>(r.col));
            if (places[k].size() == 1)
              std::fill(column + r.top, column + r.end, mine[0]);
            else
              for (std::int32_t y = r.top; y < r.end; ++y) column[y] = mine[column[y] - 1];
          }
        }
      },
      interrupt);
  return {found.count, static_cast<int>(all.size())};
}

}  // namespace bm
