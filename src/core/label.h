// Labelling of 8-connected objects, numbered in reading order: by the row, then the column, of
// their topmost (there leftmost) pixel.
#pragma once
#include <algorithm>
#include <cstring>

#include "connect.h"

namespace bm {

// Returns the number of objects; 0 in `labels` is background.
inline int label(const BitPlane& bits, Plane<int> labels) {
  std::vector<size_t> start;
  const std::vector<Run> runs = runs_of(bits, true, start);
  Unions unions(runs.size());
  join_columns(runs, start, 1, unions);

  std::vector<std::uint32_t> root(runs.size()), objects;
  std::vector<std::pair<std::int32_t, std::int32_t>> first(runs.size());
  for (size_t i = 0; i < runs.size(); ++i) {
    root[i] = unions.root(static_cast<std::uint32_t>(i));
    const std::pair<std::int32_t, std::int32_t> here(runs[i].top, runs[i].col);
    if (root[i] == i) {
      objects.push_back(root[i]);
      first[i] = here;
    } else {
      first[root[i]] = std::min(first[root[i]], here);
    }
  }
  std::sort(objects.begin(), objects.end(), [&](std::uint32_t a, std::uint32_t b) { return first[a] < first[b]; });
  std::vector<int> number(runs.size(), 0);
  for (size_t k = 0; k < objects.size(); ++k) number[objects[k]] = static_cast<int>(k + 1);

  for (size_t x = 0; x < labels.cols; ++x) {
    int* to = labels.col(x);
    std::memset(to, 0, labels.rows * sizeof *to);
    for (size_t i = start[x]; i < start[x + 1]; ++i) {
      std::fill(to + runs[i].top, to + runs[i].end, number[root[i]]);
    }
  }
  return static_cast<int>(objects.size());
}

}  // namespace bm
