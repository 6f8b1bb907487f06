// The basins of one component while it is flooded, and which of them have become one (sets joined
// by their roots, paths halved on the way: Tarjan & van Leeuwen 1984). The first is number 1; the
// root of joined basins is the first of them.
#pragma once
#include <algorithm>
#include <cstddef>
#include <cstdint>
#include <vector>

namespace bm {

class Basins {
 public:
  void clear() {
    parent_.assign(1, 0);
    peak_.assign(1, 0.0f);
    seeded_.assign(1, false);
  }

  std::uint32_t add(float peak, bool seeded) {
    const std::uint32_t basin = static_cast<std::uint32_t>(parent_.size());
    parent_.push_back(basin);
    peak_.push_back(peak);
    seeded_.push_back(seeded);
    return basin;
  }

  // How many were added, joined or not.
  std::size_t size() const { return parent_.size() - 1; }

  std::uint32_t root(std::uint32_t i) {
    while (parent_[i] != i) i = parent_[i] = parent_[parent_[i]];
    return i;
  }

  // The highest point of a root's basins, and whether one of them holds a seed.
  float peak(std::uint32_t root) const { return peak_[root]; }
  bool seeded(std::uint32_t root) const { return seeded_[root]; }

  // Two roots joined: the one that stays root.
  std::uint32_t join(std::uint32_t a, std::uint32_t b) {
    const std::uint32_t kept = std::min(a, b), gone = std::max(a, b);
    parent_[gone] = kept;
    peak_[kept] = std::max(peak_[a], peak_[b]);
    seeded_[kept] = seeded_[a] || seeded_[b];
    return kept;
  }

  // Numbers 1 .. n of the basins that are left, by the number they were added as; returns n.
  int numbers(std::vector<int>& to) {
    to.assign(parent_.size(), 0);
    int n = 0;
    for (std::uint32_t k = 1; k < parent_.size(); ++k) {
      const std::uint32_t r = root(k);  // never above k
      to[k] = r == k ? ++n : to[r];
    }
    return n;
  }

 private:
  std::vector<std::uint32_t> parent_;
  std::vector<float> peak_;
  std::vector<bool> seeded_;
};

}  // namespace bm
