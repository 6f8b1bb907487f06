// Bootstrap over the objects within each field (Efron & Tibshirani 1993): every replicate draws as
// many objects of each field as it has, with replacement. Objects come in rising order of size, so
// no replicate is sorted.
#pragma once
#include <algorithm>
#include <cstddef>
#include <cstdint>
#include <vector>

namespace bm {

// xoshiro256** (Blackman & Vigna 2018), seeded by splitmix64: the same numbers on every machine.
class Random {
 public:
  explicit Random(std::uint64_t seed) {
    for (std::uint64_t& s : state_) {
      seed += 0x9e3779b97f4a7c15ULL;
      std::uint64_t z = seed;
      z = (z ^ (z >> 30)) * 0xbf58476d1ce4e5b9ULL;
      z = (z ^ (z >> 27)) * 0x94d049bb133111ebULL;
      s = z ^ (z >> 31);
    }
  }
  // A whole number below n, all alike to within 2^-32 (n is far below that).
  std::uint32_t below(std::uint32_t n) {
    return static_cast<std::uint32_t>(((next() >> 32) * n) >> 32);
  }

 private:
  static std::uint64_t turn(std::uint64_t x, int k) { return (x << k) | (x >> (64 - k)); }
  std::uint64_t next() {
    const std::uint64_t result = turn(state_[1] * 5, 7) * 9, t = state_[1] << 17;
    state_[2] ^= state_[0];
    state_[3] ^= state_[1];
    state_[1] ^= state_[2];
    state_[0] ^= state_[3];
    state_[2] ^= t;
    state_[3] = turn(state_[3], 45);
    return result;
  }
  std::uint64_t state_[4];
};

// How often each object is drawn, field by field.
class Draws {
 public:
  Draws(const int* field, std::size_t n, std::size_t fields) : objects_(fields), times(n) {
    for (std::size_t i = 0; i < n; ++i)
      objects_[static_cast<std::size_t>(field[i])].push_back(static_cast<std::uint32_t>(i));
  }
  void again(Random& random) {
    std::fill(times.begin(), times.end(), std::uint16_t{0});
    for (const std::vector<std::uint32_t>& own : objects_) {
      const std::uint32_t n = static_cast<std::uint32_t>(own.size());
      for (std::uint32_t k = 0; k < n; ++k) ++times[own[random.below(n)]];
    }
  }

 private:
  std::vector<std::vector<std::uint32_t>> objects_;

 public:
  std::vector<std::uint16_t> times;
};

// Size below which a share p of the whole lies; between two objects it is interpolated, an object
// standing at the middle of its own share.
inline double percentile_of_draw(const double* x, const double* share,
                                 const std::vector<std::uint16_t>& times, double p) {
  double total = 0;
  const std::size_t n = times.size();
  for (std::size_t i = 0; i < n; ++i) total += share[i] * times[i];
  const double goal = p * total;
  double sum = 0, before = 0, at = 0;
  bool any = false;
  for (std::size_t i = 0; i < n; ++i) {
    if (times[i] == 0) continue;
    const double own = share[i] * times[i], middle = sum + own / 2;
    if (middle >= goal)
      return !any || middle == before ? x[i]
                                      : at + (x[i] - at) * (goal - before) / (middle - before);
    sum += own;
    before = middle;
    at = x[i];
    any = true;
  }
  return at;
}

inline double ratio_of_draw(const double* over, const double* under,
                            const std::vector<std::uint16_t>& times) {
  double a = 0, b = 0;
  for (std::size_t i = 0; i < times.size(); ++i) {
    a += over[i] * times[i];
    b += under[i] * times[i];
  }
  return a / b;
}

}  // namespace bm
