// Outlines as GeoJSON: a hundred thousand corners take a general writer longer than measuring.
#pragma once
#include <cmath>
#include <cstddef>
#include <string>

namespace bm {

// A coordinate to a thousandth of a pixel, without zeros at its end.
inline void write_coordinate(double v, std::string& to) {
  const long long thousandths = std::llround(v * 1000);
  const long long size = thousandths < 0 ? -thousandths : thousandths;
  if (thousandths < 0) to += '-';
  to += std::to_string(size / 1000);
  const int rest = static_cast<int>(size % 1000);
  if (rest == 0) return;
  const char digits[] = {'.', static_cast<char>('0' + rest / 100),
                         static_cast<char>('0' + rest / 10 % 10),
                         static_cast<char>('0' + rest % 10)};
  to.append(digits, rest % 10 ? 4 : rest % 100 ? 3 : 2);
}

// "[[x,y],[x,y],...]", closed by its first corner.
inline void write_ring(const double* x, const double* y, std::size_t n, std::string& to) {
  to += '[';
  for (std::size_t i = 0; i <= n; ++i) {
    const std::size_t corner = i < n ? i : 0;
    to += i ? ",[" : "[";
    write_coordinate(x[corner], to);
    to += ',';
    write_coordinate(y[corner], to);
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
inline void write_geometry(const WrittenRing* first, const WrittenRing* end, std::string& to) {
  const bool several = (end - 1)->piece > 1;
  to += several ? R"({"type":"MultiPolygon","coordinates":[[)"
                : R"({"type":"Polygon","coordinates":[)";
  for (const WrittenRing* ring = first; ring != end; ++ring) {
    if (ring != first) to += ring->piece == (ring - 1)->piece ? "," : "],[";
    write_ring(ring->x, ring->y, ring->corners, to);
  }
  to += several ? "]]}" : "]}";
}

}  // namespace bm
