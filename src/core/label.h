// Labelling of 8-connected objects, numbered in reading order: by the row, then the column, of
// their topmost (there leftmost) pixel.
#pragma once
#include <algorithm>
#include <cstring>

#include "connect.h"

namespace bm {

// The runs of a mask and the object each belongs to, 1 .. count.
struct ObjectRuns {
  std::vector<Run> runs;
  std::vector<size_t> start;  // start[x] .. start[x + 1] are those of column x
  std::vector<int> object;
  int count = 0;
};

inline ObjectRuns object_runs(const BitPlane& bits) {
  ObjectRuns found;
  found.runs = runs_of(bits, true, found.start);
  const std::vector<Run>& runs = found.runs;
  Unions unions(runs.size());
  join_columns(runs, found.start, 1, unions);

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
  found.object.resize(runs.size());
  for (size_t i = 0; i < runs.size(); ++i) found.object[i] = number[root[i]];
  found.count = static_cast<int>(objects.size());
  return found;
}

// Returns the number of objects; 0 in `labels` is background.
inline int label(const BitPlane& bits, Plane<int> labels) {
  const ObjectRuns found = object_runs(bits);
  for (size_t x = 0; x < labels.cols; ++x) {
    int* to = labels.col(x);
    std::memset(to, 0, labels.rows * sizeof *to);
    for (size_t i = found.start[x]; i < found.start[x + 1]; ++i) {
      std::fill(to + found.runs[i].top, to + found.runs[i].end, found.object[i]);
    }
  }
  return found.count;
}

// Runs grouped by their object's number, column by column within each; start[k] is where those of object k begin.
inline std::vector<Run> by_object(const std::vector<Run>& runs, const std::vector<int>& object, int count, std::vector<size_t>& start) {
  start.assign(static_cast<size_t>(count) + 2, 0);
  for (int k : object) ++start[static_cast<size_t>(k) + 1];
  for (size_t k = 1; k < start.size(); ++k) start[k] += start[k - 1];
  std::vector<Run> grouped(runs.size());
  std::vector<size_t> next(start);
  for (size_t i = 0; i < runs.size(); ++i) grouped[next[static_cast<size_t>(object[i])]++] = runs[i];
  return grouped;
}

}  // namespace bm
