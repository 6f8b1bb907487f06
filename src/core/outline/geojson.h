// Outlines as GeoJSON: a hundred thousand corners take a general writer longer than measuring.
#pragma once
#include <cmath>
#include <cstddef>
#include <string>

namespace bm {

// A coordinate of so many decimals, without zeros at its end.
inline void write_coordinate(double v, int decimals, std::string& to) {
  static const double power[] = {1, 1e1, 1e2, 1e3, 1e4, 1e5, 1e6, 1e7, 1e8, 1e9};
  const long long scale = static_cast<long long>(power[decimals]);
  const long long steps = std::llround(v * power[decimals]);
  const long long size = steps < 0 ? -steps : steps;
  if (steps < 0) to += '-';
  to += std::to_string(size / scale);
  long long rest = size % scale;
  if (rest == 0) return;
  char digits[10];
  for (int k = decimals; k > 0; --k, rest /= 10) digits[k] = static_cast<char>('0' + rest % 10);
  digits[0] = '.';
  int last = decimals;
  while (digits[last] == '0') --last;
  to.append(digits, last + 1);
}

// "[[x,y],[x,y],...]", closed by its first corner.
inline void write_ring(const double* x, const double* y, std::size_t n, int decimals,
                       std::string& to) {
  to += '[';
  for (std::size_t i = 0; i <= n; ++i) {
    const std::size_t corner = i < n ? i : 0;
    to += i ? ",[" : "[";
    write_coordinate(x[corner], decimals, to);
    to += ',';
    write_coordinate(y[corner], decimals, to);
    to += ']';
  }
  to += ']';
}

struct WrittenRing {
  const double* x;
  const double* y;
  std::size_t corners;
  int piece;  // which polygon of its object, from 1
};

// The geometry of one object: its rings polygon by polygon, the outer one of each before its holes.
inline void write_geometry(const WrittenRing* first, const WrittenRing* end, int decimals,
                           std::string& to) {
  const bool several = (end - 1)->piece > 1;
  to += several ? R"({"type":"MultiPolygon","coordinates":[[)"
                : R"({"type":"Polygon","coordinates":[)";
  for (const WrittenRing* ring = first; ring != end; ++ring) {
    if (ring != first) to += ring->piece == (ring - 1)->piece ? "," : "],[";
    write_ring(ring->x, ring->y, ring->corners, decimals, to);
  }
  to += several ? "]]}" : "]}";
}

}  // namespace bm
