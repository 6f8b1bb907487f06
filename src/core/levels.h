// Which grey values a picture holds. Kernels work in the smallest type that keeps them exact.
#pragma once
#include <cstring>
#include <stdexcept>

#include "plane.h"

namespace bm {

enum class Levels { bits8, bits16, real };

typedef double DoublePair __attribute__((vector_size(16)));
typedef long long FlagPair __attribute__((vector_size(16)));

// What a stretch of values breaks: being a number, being whole, lying in 0 .. 255, in 0 .. 65535.
struct LevelFlags {
  FlagPair number{}, whole{}, bits8{}, bits16{};
  void look(DoublePair v) {
    number |= (v - v) != 0;
    whole |= ((v + 6755399441055744.0) - 6755399441055744.0) != v;  // adding 1.5 * 2^52 rounds to a whole number
    bits8 |= (v < 0) | (v > 255);
    bits16 |= (v < 0) | (v > 65535);
  }
  static bool any(FlagPair f) { return (f[0] | f[1]) != 0; }
};

// Throws std::domain_error when a value is NaN or infinite: no kernel takes those.
inline Levels levels_of(Plane<const double> p) {
  const size_t n = p.size();
  LevelFlags flags;
  size_t i = 0;
  for (; i + 2 <= n; i += 2) {
    DoublePair v;
    std::memcpy(&v, p.data + i, sizeof v);
    flags.look(v);
  }
  if (i < n) flags.look(DoublePair{p.data[i], p.data[i]});
  if (LevelFlags::any(flags.number)) throw std::domain_error("missing or infinite grey value");
  if (LevelFlags::any(flags.whole) || LevelFlags::any(flags.bits16)) return Levels::real;
  return LevelFlags::any(flags.bits8) ? Levels::bits16 : Levels::bits8;
}

}  // namespace bm
