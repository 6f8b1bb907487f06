// The runs of equal labels in a label picture, by object.
#pragma once
#include <cstdint>
#include <vector>

#include "../common/bits.h"
#include "label.h"
#include "../common/parallel.h"
#include "../common/plane.h"

namespace bm {

// Bit i is set where v[i] differs from v[i - 1], of 64 values; v[-1] must be there.
BM_CLONES inline Word changes(const int* v) {
  unsigned char differs[64];
  for (int i = 0; i < 64; ++i) differs[i] = v[i] != v[i - 1];
  return pack_bytes(differs);
}

// use(y, label) wherever a column changes its label, from background before its first row to
// background after its last.
template <class Use>
void label_changes(const int* column, std::size_t rows, Use use) {
  int before = 0;
  std::size_t y = 0;
  auto step = [&] {
    if (column[y] != before) use(y, column[y]);
    before = column[y++];
  };
  if (rows > 0) step();
  for (; y + 64 <= rows; y += 64) {
    for (Word w = changes(column + y); w != 0; w &= w - 1) {
      const std::size_t at = y + static_cast<std::size_t>(__builtin_ctzll(w));
      use(at, column[at]);
    }
    before = column[y + 63];
  }
  while (y < rows) step();
  if (before != 0) use(rows, 0);
}

// Columns are shared among threads.
template <class Interrupt>
Grouped<Run> runs_by_object(Plane<const int> labels, int count, int threads, Interrupt pause) {
  const std::size_t block = 64, blocks = (labels.cols + block - 1) / block;
  std::vector<std::vector<Run>> runs(blocks);
  std::vector<std::vector<int>> object(blocks);
  over_columns(
      blocks, threads, 1,
      [&](std::size_t first, std::size_t last, auto stop) {
        for (std::size_t b = first; b < last; ++b, stop()) {
          for (std::size_t x = b * block; x < std::min(labels.cols, (b + 1) * block); ++x) {
            int label = 0;
            std::size_t top = 0;
            label_changes(labels.col(x), labels.rows, [&](std::size_t y, int next) {
              if (label > 0) {
                runs[b].push_back({static_cast<std::int32_t>(x), static_cast<std::int32_t>(top),
                                   static_cast<std::int32_t>(y)});
                object[b].push_back(label);
              }
              label = next;
              top = y;
            });
          }
        }
      },
      pause);
  for (std::size_t b = 1; b < blocks; ++b) {
    runs[0].insert(runs[0].end(), runs[b].begin(), runs[b].end());
    object[0].insert(object[0].end(), object[b].begin(), object[b].end());
  }
  return blocks > 0 ? by_object(runs[0], object[0], count) : by_object<Run>({}, {}, count);
}

}  // namespace bm
