// Labelling of 8-connected objects, numbered in reading order: by the row, then the column, of
// their topmost (there leftmost) pixel.
#pragma once
#include <algorithm>
#include <cstdint>
#include <cstring>
#include <utility>

#include "../mask/connect.h"

namespace bm {

// The runs of a mask and the object each belongs to, 1 .. count.
struct ObjectRuns {
  std::vector<Run> runs;
  std::vector<std::size_t> start;  // start[x] .. start[x + 1] are those of column x
  std::vector<int> object;
  int count = 0;
};

// `reach`: 1 for objects, 0 for what is joined along edges only, as the ground is.
inline ObjectRuns object_runs(const BitPlane& bits, int reach = 1) {
  ObjectRuns found;
  found.runs = runs_of(bits, true, found.start);
  const std::vector<Run>& runs = found.runs;
  Unions unions(runs.size());
  join_columns(runs, found.start, reach, unions);

  std::vector<std::uint32_t> root(runs.size()), objects;
  std::vector<std::pair<std::int32_t, std::int32_t>> first(runs.size());
  for (std::size_t i = 0; i < runs.size(); ++i) {
    root[i] = unions.root(static_cast<std::uint32_t>(i));
    const std::pair<std::int32_t, std::int32_t> here(runs[i].top, runs[i].col);
    if (root[i] == i) {
      objects.push_back(root[i]);
      first[i] = here;
    } else {
      first[root[i]] = std::min(first[root[i]], here);
    }
  }
  std::sort(objects.begin(), objects.end(),
            [&](std::uint32_t a, std::uint32_t b) { return first[a] < first[b]; });
  std::vector<int> number(runs.size(), 0);
  for (std::size_t k = 0; k < objects.size(); ++k) number[objects[k]] = static_cast<int>(k + 1);
  found.object.resize(runs.size());
  for (std::size_t i = 0; i < runs.size(); ++i) found.object[i] = number[root[i]];
  found.count = static_cast<int>(objects.size());
  return found;
}

// Returns the number of objects; 0 in `labels` is background.
inline int label(const BitPlane& bits, Plane<int> labels, int threads = 1, int reach = 1) {
  const ObjectRuns found = object_runs(bits, reach);
  over_columns(
      labels.cols, threads, 1,
      [&](std::size_t first, std::size_t last, auto) {
        for (std::size_t x = first; x < last; ++x) {
          int* to = labels.col(x);
          std::memset(to, 0, labels.rows * sizeof *to);
          for (std::size_t i = found.start[x]; i < found.start[x + 1]; ++i) {
            std::fill(to + found.runs[i].top, to + found.runs[i].end, found.object[i]);
          }
        }
      },
      [] {});
  return found.count;
}

// What each object has, runs or rings, column by column, one object after the other in the order of
// their leftmost columns: so those that lie side by side in memory are met one after the other.
template <class Item>
struct Grouped {
  std::vector<Item> items;
  std::vector<std::size_t> start;  // start[i] .. start[i + 1] are those of object label[i]
  std::vector<int> label;
};

// Items must come column by column; labels are 1 .. count, of which some may have no item.
template <class Item>
Grouped<Item> by_object(const std::vector<Item>& items, const std::vector<int>& object, int count) {
  Grouped<Item> found;
  std::vector<std::size_t> place(static_cast<std::size_t>(count) + 1, SIZE_MAX);
  for (int k : object) {
    std::size_t& at = place[static_cast<std::size_t>(k)];
    if (at == SIZE_MAX) {
      at = found.label.size();
      found.label.push_back(k);
      found.start.push_back(0);
    }
    ++found.start[at];
  }
  std::size_t before = 0;
  for (std::size_t& n : found.start) before += std::exchange(n, before);
  found.start.push_back(before);
  found.items.resize(before);
  std::vector<std::size_t> next(found.start);
  for (std::size_t i = 0; i < items.size(); ++i)
    found.items[next[place[static_cast<std::size_t>(object[i])]]++] = items[i];
  return found;
}

// Asks early for the beginning of a run's values in a picture: each run lies on another page of
// memory, where the processor's own foresight ends.
template <class T>
void fetch(const Run& r, Plane<const T> values) {
  const T* at = values.col(static_cast<std::size_t>(r.col));
  const std::int32_t line = 64 / sizeof(T);
  for (std::int32_t y = r.top; y < std::min(r.end, r.top + 16 * line); y += line)
    __builtin_prefetch(at + y);
}

}  // namespace bm
