// A mask as bits, 64 pixels of a column to a word; and its runs.
#pragma once
#include <cstdint>
#include <vector>

#include "parallel.h"
#include "plane.h"
#include "speed.h"

namespace bm {

typedef std::uint64_t Word;

struct BitPlane {
  std::size_t rows, cols, words;  // words per column; unused bits of the last word are zero
  std::vector<Word> data;
  BitPlane(std::size_t r, std::size_t c)
      : rows(r), cols(c), words((r + 63) / 64), data(words * c, 0) {}
  Word* col(std::size_t x) { return &data[x * words]; }
  const Word* col(std::size_t x) const { return &data[x * words]; }
  Word last_mask() const { return rows % 64 == 0 ? ~Word{0} : (Word{1} << (rows % 64)) - 1; }
};

// 64 bytes of 0 or 1 to the bits of a word: eight at a time by one multiplication.
BM_INLINE Word pack_bytes(const unsigned char* on) {
  Word w = 0;
  for (int j = 0; j < 8; ++j) {
    Word eight;
    __builtin_memcpy(&eight, on + 8 * j, 8);
    w |= ((eight * 0x0102040810204080ULL) >> 56) << (8 * j);
  }
  return w;
}

// TRUE is 1 exactly: R's NA in a logical matrix is not TRUE.
inline void pack_column(const int* from, std::size_t rows, Word* to) {
  for (std::size_t k = 0; 64 * k < rows; ++k) {
    const std::size_t n = std::min<std::size_t>(64, rows - 64 * k);
    unsigned char on[64] = {0};
    for (std::size_t i = 0; i < n; ++i) on[i] = from[64 * k + i] == 1;
    to[k] = pack_bytes(on);
  }
}

inline BitPlane pack(Plane<const int> mask, int threads = 1) {
  BitPlane bits(mask.rows, mask.cols);
  over_columns(
      mask.cols, threads, 1,
      [&](std::size_t first, std::size_t last, auto) {
        for (std::size_t x = first; x < last; ++x) pack_column(mask.col(x), mask.rows, bits.col(x));
      },
      [] {});
  return bits;
}

BM_CLONES inline void unpack_word(Word w, int* __restrict to) {
  for (int i = 0; i < 64; ++i) to[i] = static_cast<int>((w >> i) & 1);
}

inline void unpack(const BitPlane& bits, Plane<int> mask, int threads = 1) {
  const std::size_t whole = bits.rows / 64;
  over_columns(
      bits.cols, threads, 1,
      [&](std::size_t first, std::size_t last, auto) {
        for (std::size_t x = first; x < last; ++x) {
          const Word* from = bits.col(x);
          int* to = mask.col(x);
          for (std::size_t k = 0; k < whole; ++k) unpack_word(from[k], to + 64 * k);
          for (std::size_t y = 64 * whole; y < bits.rows; ++y)
            to[y] = static_cast<int>((from[whole] >> (y % 64)) & 1);
        }
      },
      [] {});
}

inline double count(const BitPlane& bits) {
  double n = 0;
  for (Word w : bits.data) n += __builtin_popcountll(w);
  return n;
}

// A stretch of equal pixels in one column: rows top .. end - 1.
struct Run {
  std::int32_t col, top, end;
};

// Position of the first bit equal to `value` at or after `y`; rows when there is none.
inline std::size_t next_bit(const Word* column, std::size_t words, std::size_t rows, std::size_t y,
                            bool value) {
  std::size_t k = y / 64;
  if (k >= words) return rows;
  Word w = (value ? column[k] : ~column[k]) & (~Word{0} << (y % 64));
  while (w == 0) {
    if (++k == words) return rows;
    w = value ? column[k] : ~column[k];
  }
  return std::min(rows, 64 * k + static_cast<std::size_t>(__builtin_ctzll(w)));
}

// use(run) for every run of set (or clear) pixels of a column.
template <class Use>
void each_run(const BitPlane& bits, std::size_t x, bool value, Use use) {
  const Word* column = bits.col(x);
  for (std::size_t y = next_bit(column, bits.words, bits.rows, 0, value); y < bits.rows;) {
    const std::size_t end = next_bit(column, bits.words, bits.rows, y, !value);
    use(Run{static_cast<std::int32_t>(x), static_cast<std::int32_t>(y),
            static_cast<std::int32_t>(end)});
    y = next_bit(column, bits.words, bits.rows, end, value);
  }
}

// use(word, ones) for every word a run lies in, and the bits of it there.
template <class Use>
void words_of_run(BitPlane& bits, const Run& run, Use use) {
  Word* column = bits.col(static_cast<std::size_t>(run.col));
  const std::size_t end = static_cast<std::size_t>(run.end);
  for (std::size_t y = static_cast<std::size_t>(run.top); y < end;) {
    const std::size_t n = std::min(end - y, 64 - y % 64);
    use(column[y / 64], (n == 64 ? ~Word{0} : (Word{1} << n) - 1) << (y % 64));
    y += n;
  }
}
inline void set_run(BitPlane& bits, const Run& run) {
  words_of_run(bits, run, [](Word& word, Word ones) { word |= ones; });
}
inline void clear_run(BitPlane& bits, const Run& run) {
  words_of_run(bits, run, [](Word& word, Word ones) { word &= ~ones; });
}

// All runs of set (or clear) pixels, column by column; start[x] .. start[x + 1] are those of column
// x.
inline std::vector<Run> runs_of(const BitPlane& bits, bool value, std::vector<std::size_t>& start) {
  std::vector<Run> runs;
  start.assign(1, 0);
  for (std::size_t x = 0; x < bits.cols; ++x) {
    each_run(bits, x, value, [&](const Run& run) { runs.push_back(run); });
    start.push_back(runs.size());
  }
  return runs;
}

}  // namespace bm
