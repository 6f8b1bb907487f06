// Skeleton by thinning in two alternating passes (Guo & Hall 1989, "Parallel thinning with
// two-subiteration algorithms", Communications of the ACM 32, 359-373): one pixel wide, connected
// as the object is, 8-connected.
#pragma once
#include <algorithm>
#include <cmath>
#include <vector>

#include "../common/plane.h"

namespace bm {

// Whether a pixel goes in a pass, from its eight neighbours p[0] (above), clockwise to p[7] (upper
// left).
inline bool thins(const unsigned char* p, bool first_pass) {
  auto off = [&](int k) { return 1 - p[k]; };
  const int c = (off(0) & (p[1] | p[2])) + (off(2) & (p[3] | p[4])) + (off(4) & (p[5] | p[6])) +
                (off(6) & (p[7] | p[0]));
  const int n1 = (p[7] | p[0]) + (p[1] | p[2]) + (p[3] | p[4]) + (p[5] | p[6]);
  const int n2 = (p[0] | p[1]) + (p[2] | p[3]) + (p[4] | p[5]) + (p[6] | p[7]);
  const int n = n1 < n2 ? n1 : n2;
  const int m = first_pass ? ((p[0] | p[1] | off(3)) & p[2]) : ((p[4] | p[5] | off(7)) & p[6]);
  return c == 1 && n >= 2 && n <= 3 && m == 0;
}

class Thinning {
 public:
  explicit Thinning(Plane<const int> in)
      : rows_(in.rows + 2), on_(rows_ * (in.cols + 2), 0), listed_(on_.size(), 0) {
    for (std::size_t x = 0; x < in.cols; ++x)
      for (std::size_t y = 0; y < in.rows; ++y)
        if (in.col(x)[y] == 1) on_[(x + 1) * rows_ + y + 1] = 1;
    const ptrdiff_t r = static_cast<ptrdiff_t>(rows_);
    const ptrdiff_t around[8] = {-1, r - 1, r, r + 1, 1, 1 - r, -r, -r - 1};
    std::copy(around, around + 8, around_);
  }

  // A pixel's fate hangs on its neighbours alone, so after the first round only those near a change
  // are looked at: the cost grows with the area, not with the width of the objects.
  void run() {
    std::vector<std::size_t> active;
    for (std::size_t i = 0; i < on_.size(); ++i)
      if (on_[i]) active.push_back(i);
    while (!active.empty()) {
      const std::vector<std::size_t> first = pass(active, true);
      std::vector<std::size_t> near_first;
      add_neighbours(first, near_first);
      clear(near_first);
      active.insert(active.end(), near_first.begin(), near_first.end());
      const std::vector<std::size_t> second = pass(active, false);
      active.clear();
      add_neighbours(first, active);
      add_neighbours(second, active);
      clear(active);
    }
  }

  bool on(std::size_t y, std::size_t x) const { return on_[(x + 1) * rows_ + y + 1] != 0; }

 private:
  std::size_t moved(std::size_t i, int k) const {
    return static_cast<std::size_t>(static_cast<ptrdiff_t>(i) + around_[k]);
  }

  std::vector<std::size_t> pass(const std::vector<std::size_t>& active, bool first) {
    std::vector<std::size_t> drop;
    for (std::size_t i : active) {
      if (on_[i] != 1) continue;
      unsigned char p[8];
      for (int k = 0; k < 8; ++k) p[k] = on_[moved(i, k)] != 0;
      if (thins(p, first)) {
        drop.push_back(i);
        on_[i] = 2;  // goes, but its neighbours see it until the pass is over
      }
    }
    for (std::size_t i : drop) on_[i] = 0;
    return drop;
  }

  void add_neighbours(const std::vector<std::size_t>& of, std::vector<std::size_t>& to) {
    for (std::size_t i : of)
      for (int k = 0; k < 8; ++k) {
        const std::size_t j = moved(i, k);
        if (on_[j] && !listed_[j]) {
          listed_[j] = 1;
          to.push_back(j);
        }
      }
  }
  void clear(const std::vector<std::size_t>& list) {
    for (std::size_t j : list) listed_[j] = 0;
  }

  std::size_t rows_;
  std::vector<unsigned char> on_, listed_;
  ptrdiff_t around_[8];
};

inline void skeleton(Plane<const int> in, Plane<int> out) {
  Thinning thinning(in);
  thinning.run();
  for (std::size_t x = 0; x < in.cols; ++x)
    for (std::size_t y = 0; y < in.rows; ++y) out.col(x)[y] = thinning.on(y, x);
}

// Lengths of the middle lines of objects 1 .. count, from pixel centre to pixel centre: steps along
// and across, and slanted ones where nothing else joins the two, times 0.948, which makes lines of
// all directions right on average (Kulpa 1977).
inline std::vector<double> skeleton_lengths(Plane<const int> skeleton, Plane<const int> labels,
                                            int count, double sx, double sy) {
  std::vector<double> length(static_cast<std::size_t>(count), 0);
  const std::size_t rows = skeleton.rows, cols = skeleton.cols;
  const double slanted = std::hypot(sx, sy);
  for (std::size_t x = 0; x < cols; ++x) {
    for (std::size_t y = 0; y < rows; ++y) {
      const int label = labels.col(x)[y];
      if (label == 0 || skeleton.col(x)[y] != 1) continue;
      auto on = [&](std::size_t at, std::size_t row) {
        return at < cols && row < rows && skeleton.col(at)[row] == 1 &&
               labels.col(at)[row] == label;
      };
      double& sum = length[static_cast<std::size_t>(label) - 1];
      if (on(x, y + 1)) sum += sy;
      if (on(x + 1, y)) sum += sx;
      if (on(x + 1, y + 1) && !on(x, y + 1) && !on(x + 1, y)) sum += slanted;
      if (on(x + 1, y - 1) && !on(x, y - 1) && !on(x + 1, y)) sum += slanted;
    }
  }
  for (double& l : length) l *= 0.948;
  return length;
}

}  // namespace bm
