// Which grey values a picture holds. Kernels work in the smallest type that keeps them exact.
#pragma once
#include <algorithm>
#include <cmath>
#include <cstddef>
#include <cstdint>
#include <stdexcept>
#include <vector>

#include "parallel.h"
#include "plane.h"
#include "speed.h"

namespace bm {

enum class Levels { bits8, bits16, real };

// What a stretch of values breaks: being a number, being whole, lying in 0 .. 255, in 0 .. 65535.
struct LevelFlags {
  std::int64_t number = 0, whole = 0, bits8 = 0, bits16 = 0;
};

BM_CLONES inline void look_at_levels(const double* v, std::size_t n, LevelFlags& flags) {
  std::int64_t number = 0, whole = 0, bits8 = 0, bits16 = 0;
  for (std::size_t i = 0; i < n; ++i) {
    const double g = v[i], rounded = (g + 6755399441055744.0) -
                                     6755399441055744.0;  // 1.5 * 2^52 rounds to whole
    number |= -static_cast<std::int64_t>(!(g - g == 0));
    whole |= -static_cast<std::int64_t>(rounded != g);
    bits8 |= -static_cast<std::int64_t>(!(g >= 0) | !(g <= 255));
    bits16 |= -static_cast<std::int64_t>(!(g >= 0) | !(g <= 65535));
  }
  flags.number |= number;
  flags.whole |= whole;
  flags.bits8 |= bits8;
  flags.bits16 |= bits16;
}

// Throws std::domain_error when a value is NaN or infinite: no kernel takes those.
inline Levels levels_of(Plane<const double> p, int threads = 1) {
  std::vector<LevelFlags> found(static_cast<std::size_t>(std::max(threads, 1)));
  over_columns(
      found.size(), threads, 1,
      [&](std::size_t first, std::size_t last, auto) {
        for (std::size_t k = first; k < last; ++k) {
          const std::size_t from = p.size() * k / found.size(),
                            to = p.size() * (k + 1) / found.size();
          look_at_levels(p.data + from, to - from, found[k]);
        }
      },
      [] {});
  LevelFlags flags;
  for (const LevelFlags& f : found) {
    flags.number |= f.number;
    flags.whole |= f.whole;
    flags.bits8 |= f.bits8;
    flags.bits16 |= f.bits16;
  }
  if (flags.number) throw std::domain_error("missing or infinite grey value");
  if (flags.whole || flags.bits16) return Levels::real;
  return flags.bits8 ? Levels::bits16 : Levels::bits8;
}

// Levels of a stretch of values as whole numbers; false when one is no whole number in 0 .. top.
BM_CLONES inline bool whole_levels(const double* __restrict v, std::int32_t* __restrict whole,
                                   std::size_t n, double top) {
  std::int64_t bad = 0;
  for (std::size_t i = 0; i < n; ++i)
    bad |= -static_cast<std::int64_t>(!(v[i] >= 0) | !(v[i] <= top));
  if (bad != 0) return false;
  for (std::size_t i = 0; i < n; ++i) whole[i] = static_cast<std::int32_t>(v[i]);
  for (std::size_t i = 0; i < n; ++i)
    bad |= -static_cast<std::int64_t>(static_cast<double>(whole[i]) != v[i]);
  return bad == 0;
}

// Levels of a stretch of any values: rounded to the nearest level, and those beyond the ends put on
// them.
inline void nearest_levels(const double* v, std::int32_t* whole, std::size_t n, double top) {
  if (whole_levels(v, whole, n, top)) return;
  for (std::size_t i = 0; i < n; ++i) {
    if (!(v[i] - v[i] == 0)) throw std::domain_error("missing or infinite grey value");
    whole[i] = static_cast<std::int32_t>(std::nearbyint(std::min(std::max(v[i], 0.0), top)));
  }
}

// Values as bytes; false when one is no whole number in 0 .. 255.
inline bool to_bytes(const double* v, std::uint8_t* to, std::size_t n) {
  constexpr std::size_t block = 512;
  std::int32_t whole[block];
  for (std::size_t from = 0; from < n; from += block) {
    const std::size_t m = std::min(block, n - from);
    if (!whole_levels(v + from, whole, m, 255)) return false;
    convert(whole, to + from, m);
  }
  return true;
}

}  // namespace bm
