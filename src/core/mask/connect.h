// Which runs are connected: union-find over runs of neighbouring columns.
#pragma once
#include <cstdint>
#include <vector>

#include "../common/bits.h"

namespace bm {

class Unions {
 public:
  explicit Unions(std::size_t n = 0) : parent_(n) {
    for (std::size_t i = 0; i < n; ++i) parent_[i] = static_cast<std::uint32_t>(i);
  }
  std::uint32_t add() {
    parent_.push_back(static_cast<std::uint32_t>(parent_.size()));
    return parent_.back();
  }
  std::size_t size() const { return parent_.size(); }
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

// Goes through the runs column by column and holds those of two columns only, however many there
// are. use(run, id): a run that touches one of the column before has its id, others a new one from
// fresh(); join(a, b) where two ids prove to be one. Ids are the same each time.
template <class Fresh, class Join, class Use>
void walk_runs(const BitPlane& bits, bool value, int reach, Fresh fresh, Join join, Use use) {
  struct Numbered {
    std::int32_t top, end;
    std::uint32_t id;
  };
  std::vector<Numbered> before, now;
  for (std::size_t x = 0; x < bits.cols; ++x) {
    now.clear();
    std::size_t from = 0;
    each_run(bits, x, value, [&](const Run& run) {
      while (from < before.size() && before[from].end + reach <= run.top) ++from;
      const bool touches = from < before.size() && before[from].top < run.end + reach;
      const std::uint32_t id = touches ? before[from].id : fresh();
      for (std::size_t j = from; j < before.size() && before[j].top < run.end + reach; ++j)
        if (before[j].id != id) join(id, before[j].id);
      now.push_back({run.top, run.end, id});
      use(run, id);
    });
    before.swap(now);
  }
}

}  // namespace bm
