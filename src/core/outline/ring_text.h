// Rings as text, for files: a hundred thousand corners take a general writer longer than measuring.
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
inline std::string ring_text(const double* x, const double* y, std::size_t n) {
  std::string out = "[";
  out.reserve(12 * (n + 1));
  for (std::size_t i = 0; i <= n; ++i) {
    const std::size_t corner = i < n ? i : 0;
    out += i ? ",[" : "[";
    write_coordinate(x[corner], out);
    out += ',';
    write_coordinate(y[corner], out);
    out += ']';
  }
  return out + "]";
}

}  // namespace bm
