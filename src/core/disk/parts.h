// The 8-connected parts of a mask that is held as bits: what each covers, and which of them stay.
#pragma once
#include <algorithm>
#include <cstdint>
#include <vector>

#include "../mask/connect.h"

namespace bm {

struct Part {
  std::int32_t top = INT32_MAX, left = INT32_MAX, bottom = -1, right = -1;
  std::int32_t first_col = INT32_MAX;  // of its topmost pixel, there the leftmost
  double area = 0;

  void add(const Part& other) {
    if (other.top < top) first_col = other.first_col;
    if (other.top == top) first_col = std::min(first_col, other.first_col);
    top = std::min(top, other.top);
    left = std::min(left, other.left);
    bottom = std::max(bottom, other.bottom);
    right = std::max(right, other.right);
    area += other.area;
  }
};

class Parts {
 public:
  explicit Parts(const BitPlane& bits) {
    walk_runs(
        bits, true, 1,
        [&] {
          found_.emplace_back();
          return unions_.add();
        },
        [&](std::uint32_t a, std::uint32_t b) { unions_.join(a, b); },
        [&](const Run& r, std::uint32_t id) {
          Part one;
          one.top = r.top;
          one.left = one.right = one.first_col = r.col;
          one.bottom = r.end - 1;
          one.area = r.end - r.top;
          found_[id].add(one);
        });
    for (std::uint32_t id = 0; id < found_.size(); ++id)
      if (unions_.root(id) != id) found_[unions_.root(id)].add(found_[id]);
  }

  // In reading order of their first pixels.
  std::vector<Part> all() {
    std::vector<Part> list;
    for (std::uint32_t id = 0; id < found_.size(); ++id)
      if (unions_.root(id) == id) list.push_back(found_[id]);
    std::sort(list.begin(), list.end(), [](const Part& a, const Part& b) {
      return a.top < b.top || (a.top == b.top && a.first_col < b.first_col);
    });
    return list;
  }

  // Clears the parts that are not kept; returns how many pixels that were. keep(id) of a root.
  template <class Keep>
  double keep(BitPlane& bits, Keep keep) {
    double gone = 0;
    std::uint32_t next = 0;
    walk_runs(
        bits, true, 1, [&] { return next++; }, [](std::uint32_t, std::uint32_t) {},
        [&](const Run& r, std::uint32_t id) {
          if (keep(unions_.root(id))) return;
          clear_run(bits, r);
          gone += r.end - r.top;
        });
    return gone;
  }

  double area(std::uint32_t root) const { return found_[root].area; }
  std::size_t ids() const { return found_.size(); }
  std::uint32_t root(std::uint32_t id) { return unions_.root(id); }

 private:
  Unions unions_;
  std::vector<Part> found_;
};

// Parts of fewer than `least` pixels go; returns how many pixels that were.
inline double drop_parts(BitPlane& bits, double least) {
  Parts parts(bits);
  return parts.keep(bits, [&](std::uint32_t root) { return parts.area(root) >= least; });
}

// Parts that hold no pixel of `marks` go; returns how many parts those were.
inline double keep_marked(BitPlane& bits, const BitPlane& marks) {
  Parts parts(bits);
  std::vector<unsigned char> marked(parts.ids(), 0);
  std::uint32_t next = 0;
  walk_runs(
      bits, true, 1, [&] { return next++; }, [](std::uint32_t, std::uint32_t) {},
      [&](const Run& r, std::uint32_t id) {
        const Word* column = marks.col(static_cast<std::size_t>(r.col));
        const std::size_t end = static_cast<std::size_t>(r.end);
        if (next_bit(column, marks.words, end, static_cast<std::size_t>(r.top), true) < end)
          marked[parts.root(id)] = 1;
      });
  double dropped = 0;
  for (std::uint32_t id = 0; id < marked.size(); ++id)
    if (parts.root(id) == id && !marked[id]) ++dropped;
  parts.keep(bits, [&](std::uint32_t root) { return marked[root] != 0; });
  return dropped;
}

}  // namespace bm
