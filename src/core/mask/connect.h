// Which runs are connected: union-find over runs of neighbouring columns.
#pragma once
#include <cstdint>
#include <vector>

#include "../common/bits.h"

namespace bm {

class Unions {
 public:
  explicit Unions(std::size_t n) : parent_(n) {
    for (std::size_t i = 0; i < n; ++i) parent_[i] = static_cast<std::uint32_t>(i);
  }
  std::uint32_t root(std::uint32_t i) {
    while (parent_[i] != i) i = parent_[i] = parent_[parent_[i]];
    return i;
  }
  void join(std::uint32_t a, std::uint32_t b) {
    a = root(a);
    b = root(b);
    if (a < b)
      parent_[b] = a;
    else
      parent_[a] = b;
  }

 private:
  std::vector<std::uint32_t> parent_;
};

// reach = 1 joins runs that touch at a corner (8-connected), 0 only along an edge (4-connected).
inline void join_columns(const std::vector<Run>& runs, const std::vector<std::size_t>& start,
                         int reach, Unions& unions) {
  for (std::size_t x = 1; x + 1 < start.size(); ++x) {
    std::size_t before = start[x - 1];
    for (std::size_t i = start[x]; i < start[x + 1]; ++i) {
      while (before < start[x] && runs[before].end + reach <= runs[i].top) ++before;
      for (std::size_t j = before; j < start[x] && runs[j].top < runs[i].end + reach; ++j) {
        unions.join(static_cast<std::uint32_t>(i), static_cast<std::uint32_t>(j));
      }
    }
  }
}

}  // namespace bm
