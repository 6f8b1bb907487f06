// Which grey values a picture holds. Kernels work in the smallest type that keeps them exact.
#pragma once
#include <cstdint>
#include <stdexcept>

#include "plane.h"
#include "speed.h"

namespace bm {

enum class Levels { bits8, bits16, real };

// What a stretch of values breaks: being a number, being whole, lying in 0 .. 255, in 0 .. 65535.
struct LevelFlags {
  std::int64_t number = 0, whole = 0, bits8 = 0, bits16 = 0;
};

BM_CLONES inline void look_at_levels(const double* v, size_t n, LevelFlags& flags) {
  std::int64_t number = 0, whole = 0, bits8 = 0, bits16 = 0;
  for (size_t i = 0; i < n; ++i) {
    const double g = v[i], rounded = (g + 6755399441055744.0) - 6755399441055744.0;  // 1.5 * 2^52 rounds to whole
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
inline Levels levels_of(Plane<const double> p) {
  LevelFlags flags;
  look_at_levels(p.data, p.size(), flags);
  if (flags.number) throw std::domain_error("missing or infinite grey value");
  if (flags.whole || flags.bits16) return Levels::real;
  return flags.bits8 ? Levels::bits16 : Levels::bits8;
}

}  // namespace bm
