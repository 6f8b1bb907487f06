// Parts of a mask that is held as bits: read, and put in place.
#pragma once
#include <algorithm>
#include <cstdint>
#include <vector>

#include "../common/bits.h"

namespace bm {

// The pixels from (top, left) on, as many as `to` has.
inline void read_window(const BitPlane& bits, std::size_t top, std::size_t left, Plane<int> to) {
  for (std::size_t x = 0; x < to.cols; ++x) {
    const Word* column = bits.col(left + x);
    int* out = to.col(x);
    for (std::size_t y = 0; y < to.rows; y += 64) {
      const std::size_t k = (top + y) / 64, by = (top + y) % 64;
      Word w = column[k] >> by;
      if (by > 0 && k + 1 < bits.words) w |= column[k + 1] << (64 - by);
      if (y + 64 <= to.rows) {
        unpack_word(w, out + y);
      } else {
        for (std::size_t i = y; i < to.rows; ++i) out[i] = static_cast<int>((w >> (i - y)) & 1);
      }
    }
  }
}

// The part of `from` that begins at (skip_rows, skip_cols) goes to (top, left); `rows` x `cols` of
// it. What stands there is replaced, or (`add`) kept as well.
inline void write_window(BitPlane& bits, std::size_t top, std::size_t left, Plane<const int> from,
                         std::size_t skip_rows, std::size_t skip_cols, std::size_t rows,
                         std::size_t cols, bool add) {
  std::vector<Word> packed((rows + 63) / 64 + 1);
  for (std::size_t x = 0; x < cols; ++x) {
    std::fill(packed.begin(), packed.end(), Word{0});
    pack_column(from.col(skip_cols + x) + skip_rows, rows, packed.data());
    Word* column = bits.col(left + x);
    for (std::size_t y = 0; y < rows;) {
      const std::size_t to = top + y, n = std::min(rows - y, 64 - to % 64);
      const Word ones = n == 64 ? ~Word{0} : (Word{1} << n) - 1;
      Word w = packed[y / 64] >> (y % 64);
      if (y % 64 > 0) w |= packed[y / 64 + 1] << (64 - y % 64);
      Word& at = column[to / 64];
      if (!add) at &= ~(ones << (to % 64));
      at |= (w & ones) << (to % 64);
      y += n;
    }
  }
}

}  // namespace bm
