// A view of a picture: pixels column by column, as R stores a matrix [row = y, col = x].
#pragma once
#include <algorithm>
#include <cstddef>
#include <cstdint>
#include <type_traits>

namespace bm {

using std::ptrdiff_t;
using std::size_t;

template <class T>
struct Plane {
  T* data;
  std::size_t rows, cols;
  T* col(std::size_t x) const { return data + x * rows; }
  std::size_t size() const { return rows * cols; }
};

// A picture seen from one of its pixels, (x, y): coordinates count from there. So what is made of
// an object is the same to the last bit wherever in the picture it lies.
template <class T>
struct Seen {
  const T* origin;
  ptrdiff_t stride, left, top, right, bottom;  // right and bottom: behind the last pixels
  Seen(Plane<const T> p, ptrdiff_t x, ptrdiff_t y)
      : origin(p.data + x * static_cast<ptrdiff_t>(p.rows) + y),
        stride(static_cast<ptrdiff_t>(p.rows)),
        left(-x),
        top(-y),
        right(static_cast<ptrdiff_t>(p.cols) - x),
        bottom(static_cast<ptrdiff_t>(p.rows) - y) {}
  bool holds(ptrdiff_t x, ptrdiff_t y) const {
    return x >= left && y >= top && x < right && y < bottom;
  }
  T at(ptrdiff_t x, ptrdiff_t y) const { return origin[x * stride + y]; }
};

// Index of a reflecting frame: ... 2 1 0 | 0 1 2 ... n-1 | n-1 n-2 ..., for any distance outside.
inline std::size_t reflect(ptrdiff_t i, std::size_t n) {
  const ptrdiff_t period = 2 * static_cast<ptrdiff_t>(n);
  i %= period;
  if (i < 0) i += period;
  return static_cast<std::size_t>(i < static_cast<ptrdiff_t>(n) ? i : period - 1 - i);
}

// A grey value as T; whole levels by way of a 32-bit number, which the compiler vectorises.
template <class T, class From>
inline T level_as(From v) {
  if constexpr (std::is_integral<T>::value)
    return static_cast<T>(static_cast<std::int32_t>(v));
  else
    return static_cast<T>(v);
}
template <class T, class From>
inline void convert(const From* __restrict from, T* __restrict to, std::size_t n) {
  for (std::size_t i = 0; i < n; ++i) to[i] = level_as<T>(from[i]);
}

// Rows first .. first + n - 1 of a column as T, reflected where they lie outside the picture.
template <class T, class From>
void load_rows(const From* from, std::size_t rows, ptrdiff_t first, std::size_t n, T* to) {
  const ptrdiff_t total = static_cast<ptrdiff_t>(n), height = static_cast<ptrdiff_t>(rows);
  const ptrdiff_t start = std::min(total, std::max<ptrdiff_t>(0, -first));
  const ptrdiff_t stop = std::max(start, std::min(total, height - first));
  for (ptrdiff_t i = 0; i < start; ++i) to[i] = static_cast<T>(from[reflect(first + i, rows)]);
  convert(from + first + start, to + start, static_cast<std::size_t>(stop - start));
  for (ptrdiff_t i = stop; i < total; ++i) to[i] = static_cast<T>(from[reflect(first + i, rows)]);
}

}  // namespace bm
