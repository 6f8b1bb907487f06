// Means (and standard deviations) over windows of (2 rx + 1) x (2 ry + 1) pixels by running sums:
// column sums kept from column to column, then a running sum down each column (McDonnell 1981).
// Sums of whole levels are exact.
#pragma once
#include <atomic>
#include <cmath>
#include <cstdint>
#include <vector>

#include "../common/levels.h"
#include "../common/parallel.h"
#include "../common/plane.h"
#include "../common/speed.h"

namespace bm {

BM_CLONES inline void add_column(const double* enters, double* sum, std::size_t n) {
  for (std::size_t i = 0; i < n; ++i) sum[i] += enters[i];
}
BM_CLONES inline void exchange_column(const double* enters, const double* leaves, double* sum,
                                      std::size_t n) {
  for (std::size_t i = 0; i < n; ++i) sum[i] += enters[i] - leaves[i];
}

// The same with sums of squares about a reference: enters^2 - leaves^2 as a product.
template <class S, class T>
BM_CLONES void add_squares(const T* enters, S reference, S* sum, S* squares, std::size_t n) {
  for (std::size_t i = 0; i < n; ++i) {
    const S in = static_cast<S>(enters[i]) - reference;
    sum[i] += in;
    squares[i] += in * in;
  }
}
template <class S, class T>
BM_CLONES void exchange_squares(const T* __restrict enters, const T* __restrict leaves, S reference,
                                S* __restrict sum, S* __restrict squares, std::size_t n) {
  for (std::size_t i = 0; i < n; ++i) {
    const S in = static_cast<S>(enters[i]) - reference, out = static_cast<S>(leaves[i]) - reference;
    sum[i] += in - out;
    squares[i] += in * in - out * out;
  }
}
template <class S>
BM_CLONES void differences(const S* __restrict padded, std::size_t gap, S* __restrict to,
                           std::size_t n) {
  for (std::size_t i = 0; i < n; ++i) to[i] = padded[i + gap] - padded[i];
}

// A column of sums with its mirrored ends, and for every row what enters the window less what
// leaves it: so each row waits for one addition only.
template <class S>
struct Window {
  std::vector<S> padded;
  const S* change = nullptr;
  S total = 0;
  void slide_over(const S* sum, std::size_t rows, std::size_t ry) {
    const std::size_t window = 2 * ry + 1;
    padded.resize(2 * (rows + window));
    load_rows(sum, rows, -static_cast<ptrdiff_t>(ry), rows + window - 1, padded.data());
    S* room = padded.data() + rows + window;
    differences(padded.data(), window, room, rows - 1);
    room[rows - 1] = 0;
    change = room;
    total = 0;
    for (std::size_t i = 0; i < window; ++i) total += padded[i];
  }
};

// to[y] = factor * (sum[y - ry] + ... + sum[y + ry]), mirrored at the frame.
inline void running_sum(Window<double>& w, std::size_t rows, double factor, double* to) {
  double total = w.total;
  for (std::size_t y = 0; y < rows; ++y) {
    to[y] = total * factor;
    total += w.change[y];
  }
}

// Two of them side by side: neither waits for the other.
template <class S>
void running_sums(Window<S>& w, Window<S>& v, std::size_t rows, double factor,
                  double* __restrict to, double* __restrict other) {
  S total = w.total, second = v.total;
  for (std::size_t y = 0; y < rows; ++y) {
    to[y] = static_cast<double>(total) * factor;
    other[y] = static_cast<double>(second) * factor;
    total += w.change[y];
    second += v.change[y];
  }
}

constexpr std::size_t box_block = 512;  // columns after which running sums begin again

// Slides a window of columns from `begin` to `stop`: clear() and enter() for each column of the
// first window, then exchange(entering, leaving) from column to column, and each(x) when the window
// stands about x.
template <class Column, class Clear, class Enter, class Exchange, class Each>
void slide_columns(Column column, ptrdiff_t r, ptrdiff_t begin, ptrdiff_t stop, Clear clear,
                   Enter enter, Exchange exchange, Each each) {
  clear();
  for (ptrdiff_t x = begin - r; x <= begin + r; ++x) enter(column(x));
  for (ptrdiff_t x = begin; x < stop; ++x) {
    if (x > begin) exchange(column(x + r), column(x - r - 1));
    each(static_cast<std::size_t>(x));
  }
}

template <class Interrupt>
void box_mean(Plane<const double> in, Plane<double> out, std::size_t rx, std::size_t ry,
              int threads, Interrupt interrupt) {
  const double factor = 1.0 / static_cast<double>((2 * rx + 1) * (2 * ry + 1));
  const std::size_t n = in.rows;
  over_columns(
      in.cols, threads, box_block,
      [&](std::size_t first, std::size_t last, auto pause) {
        std::vector<double> sum(n);
        Window<double> window;
        for (std::size_t from = first; from < last; from += box_block) {
          slide_columns([&](ptrdiff_t x) { return in.col(reflect(x, in.cols)); },
                        static_cast<ptrdiff_t>(rx), static_cast<ptrdiff_t>(from),
                        static_cast<ptrdiff_t>(std::min(last, from + box_block)),
                        [&] { std::fill(sum.begin(), sum.end(), 0.0); },
                        [&](const double* v) { add_column(v, sum.data(), n); },
                        [&](const double* enters, const double* leaves) {
                          exchange_column(enters, leaves, sum.data(), n);
                        },
                        [&](std::size_t x) {
                          window.slide_over(sum.data(), n, ry);
                          running_sum(window, n, factor, out.col(x));
                          if (x % 256 == 0) pause();
                        });
        }
      },
      interrupt);
}

// Where the columns of a window come from: the picture itself, or a copy of a few of them as bytes.
struct AsTheyAre {
  explicit AsTheyAre(Plane<const double> in) : in_(in) {}
  bool load(std::size_t, std::size_t) { return true; }
  const double* col(std::size_t x) const { return in_.col(x); }

 private:
  Plane<const double> in_;
};

class AsBytes {
 public:
  explicit AsBytes(Plane<const double> in) : in_(in) {}
  // False when a value is no level 0 .. 255.
  bool load(std::size_t first, std::size_t last) {
    first_ = first;
    room_.resize((last - first) * in_.rows);
    return to_bytes(in_.col(first), room_.data(), room_.size());
  }
  const std::uint8_t* col(std::size_t x) const { return room_.data() + (x - first_) * in_.rows; }

 private:
  Plane<const double> in_;
  std::size_t first_ = 0;
  std::vector<std::uint8_t> room_;
};

// False when the columns cannot be loaded as wanted; then what was handed over is void.
template <class S, class Columns, class Each, class Interrupt>
bool box_statistics(Plane<const double> in, std::size_t rx, std::size_t ry, double reference,
                    int threads, Each each, Interrupt interrupt) {
  const double factor = 1.0 / static_cast<double>((2 * rx + 1) * (2 * ry + 1));
  const S middle = static_cast<S>(reference);
  const std::size_t n = in.rows;
  std::atomic<bool> fits{true};
  over_columns(
      in.cols, threads, box_block,
      [&](std::size_t first, std::size_t last, auto pause) {
        std::vector<S> sum(n), squares(n);
        std::vector<double> mean(n), square(n);
        Window<S> window, second;
        Columns columns(in);
        for (std::size_t from = first; from < last; from += box_block) {
          const std::size_t stop = std::min(last, from + box_block);
          if (!fits ||
              !columns.load(from > rx + 1 ? from - rx - 1 : 0, std::min(in.cols, stop + rx))) {
            fits = false;
            return;
          }
          slide_columns(
              [&](ptrdiff_t x) { return columns.col(reflect(x, in.cols)); },
              static_cast<ptrdiff_t>(rx), static_cast<ptrdiff_t>(from),
              static_cast<ptrdiff_t>(stop),
              [&] {
                std::fill(sum.begin(), sum.end(), S{0});
                std::fill(squares.begin(), squares.end(), S{0});
              },
              [&](const auto* v) { add_squares(v, middle, sum.data(), squares.data(), n); },
              [&](const auto* enters, const auto* leaves) {
                exchange_squares(enters, leaves, middle, sum.data(), squares.data(), n);
              },
              [&](std::size_t x) {
                window.slide_over(sum.data(), n, ry);
                second.slide_over(squares.data(), n, ry);
                running_sums(window, second, n, factor, mean.data(), square.data());
                each(x, columns.col(x), mean.data(), square.data());
                if (x % 64 == 0) pause();
              });
        }
      },
      interrupt);
  return fits;
}

// About every pixel the means of the values less a whole reference grey and of their squares,
// handed over a column at a time: each(x, values, mean, square). With a reference near the mean
// their difference stays small, and sums of whole levels are exact; sums of 8-bit levels are kept
// in whole numbers as long as they fit.
template <class Each, class Interrupt>
void local_statistics(Plane<const double> in, std::size_t rx, std::size_t ry, double reference,
                      int threads, Each each, Interrupt interrupt) {
  const double most = 255.0 * 255.0 * static_cast<double>((2 * rx + 1) * (2 * ry + 1));
  const bool whole = reference >= 0 && reference <= 255 && most < 2147483647.0;
  if (whole &&
      box_statistics<std::int32_t, AsBytes>(in, rx, ry, reference, threads, each, interrupt))
    return;
  levels_of(in, threads);  // refuses what is not a number
  box_statistics<double, AsTheyAre>(in, rx, ry, reference, threads, each, interrupt);
}

}  // namespace bm
