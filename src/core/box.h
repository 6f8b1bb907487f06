// Means (and standard deviations) over windows of (2 rx + 1) x (2 ry + 1) pixels by running sums: column sums kept
// from column to column, then a running sum down each column (McDonnell 1981). Sums of whole levels are exact.
#pragma once
#include <cmath>
#include <cstdint>
#include <vector>

#include "levels.h"
#include "parallel.h"
#include "plane.h"
#include "speed.h"

namespace bm {

BM_CLONES inline void add_column(const double* enters, double* sum, size_t n) {
  for (size_t i = 0; i < n; ++i) sum[i] += enters[i];
}
BM_CLONES inline void exchange_column(const double* enters, const double* leaves, double* sum, size_t n) {
  for (size_t i = 0; i < n; ++i) sum[i] += enters[i] - leaves[i];
}

// The same with sums of squares about a reference: enters^2 - leaves^2 as a product.
template <class S>
BM_CLONES void add_squares(const double* enters, double reference, S* sum, S* squares, size_t n) {
  for (size_t i = 0; i < n; ++i) {
    const S in = static_cast<S>(enters[i] - reference);
    sum[i] += in;
    squares[i] += in * in;
  }
}
template <class S>
BM_CLONES void exchange_squares(const double* __restrict enters, const double* __restrict leaves, double reference, S* __restrict sum,
                                S* __restrict squares, size_t n) {
  for (size_t i = 0; i < n; ++i) {
    const S in = static_cast<S>(enters[i] - reference), out = static_cast<S>(leaves[i] - reference);
    sum[i] += in - out;
    squares[i] += in * in - out * out;
  }
}
template <class S>
BM_CLONES void differences(const S* __restrict padded, size_t gap, S* __restrict to, size_t n) {
  for (size_t i = 0; i < n; ++i) to[i] = padded[i + gap] - padded[i];
}

// A column of sums with its mirrored ends, and for every row what enters the window less what leaves it: so each row waits for
// one addition only.
template <class S>
struct Window {
  std::vector<S> padded;
  const S* change = nullptr;
  S total = 0;
  void slide_over(const S* sum, size_t rows, size_t ry) {
    const size_t window = 2 * ry + 1;
    padded.resize(2 * (rows + window));
    load_rows(sum, rows, -static_cast<ptrdiff_t>(ry), rows + window - 1, padded.data());
    S* room = padded.data() + rows + window;
    differences(padded.data(), window, room, rows - 1);
    room[rows - 1] = 0;
    change = room;
    total = 0;
    for (size_t i = 0; i < window; ++i) total += padded[i];
  }
};

// to[y] = factor * (sum[y - ry] + ... + sum[y + ry]), mirrored at the frame.
inline void running_sum(Window<double>& w, size_t rows, double factor, double* to) {
  double total = w.total;
  for (size_t y = 0; y < rows; ++y) {
    to[y] = total * factor;
    total += w.change[y];
  }
}

// Two of them side by side: neither waits for the other.
template <class S>
void running_sums(Window<S>& w, Window<S>& v, size_t rows, double factor, double* __restrict to, double* __restrict other) {
  S total = w.total, second = v.total;
  for (size_t y = 0; y < rows; ++y) {
    to[y] = static_cast<double>(total) * factor;
    other[y] = static_cast<double>(second) * factor;
    total += w.change[y];
    second += v.change[y];
  }
}

constexpr size_t box_block = 512;  // columns after which running sums begin anew

// Slides a window of columns over a stretch of the picture: at the start of every block clear() and enter() for each column of
// the first window, then exchange(entering, leaving) from column to column, and each(x) when the window stands about x.
template <class Clear, class Enter, class Exchange, class Each>
void column_windows(Plane<const double> in, size_t rx, size_t first, size_t last, Clear clear, Enter enter, Exchange exchange,
                    Each each) {
  const ptrdiff_t r = static_cast<ptrdiff_t>(rx);
  auto column = [&](ptrdiff_t x) { return in.col(reflect(x, in.cols)); };
  for (size_t from = first; from < last; from += box_block) {
    clear();
    const ptrdiff_t begin = static_cast<ptrdiff_t>(from), stop = static_cast<ptrdiff_t>(std::min(last, from + box_block));
    for (ptrdiff_t x = begin - r; x <= begin + r; ++x) enter(column(x));
    for (ptrdiff_t x = begin; x < stop; ++x) {
      if (x > begin) exchange(column(x + r), column(x - r - 1));
      each(static_cast<size_t>(x));
    }
  }
}

template <class Interrupt>
void box_mean(Plane<const double> in, Plane<double> out, size_t rx, size_t ry, int threads, Interrupt interrupt) {
  const double factor = 1.0 / static_cast<double>((2 * rx + 1) * (2 * ry + 1));
  const size_t n = in.rows;
  over_columns(in.cols, threads, box_block, [&](size_t first, size_t last, auto pause) {
    std::vector<double> sum(n);
    Window<double> window;
    column_windows(
        in, rx, first, last, [&] { std::fill(sum.begin(), sum.end(), 0.0); },
        [&](const double* v) { add_column(v, sum.data(), n); },
        [&](const double* enters, const double* leaves) { exchange_column(enters, leaves, sum.data(), n); },
        [&](size_t x) {
          window.slide_over(sum.data(), n, ry);
          running_sum(window, n, factor, out.col(x));
          if (x % 256 == 0) pause();
        });
  }, interrupt);
}

// From the means of the values less a reference and of their squares.
BM_CLONES inline void mean_and_deviation(double reference, double* __restrict mean, double* __restrict square, size_t n) {
  for (size_t i = 0; i < n; ++i) {
    const double variance = square[i] - mean[i] * mean[i];
    square[i] = std::sqrt(variance > 0 ? variance : 0);
    mean[i] += reference;
  }
}

template <class S, class Each, class Interrupt>
void box_statistics(Plane<const double> in, size_t rx, size_t ry, double reference, int threads, Each each, Interrupt interrupt) {
  const double factor = 1.0 / static_cast<double>((2 * rx + 1) * (2 * ry + 1));
  const size_t n = in.rows;
  over_columns(in.cols, threads, box_block, [&](size_t first, size_t last, auto pause) {
    std::vector<S> sum(n), squares(n);
    std::vector<double> mean(n), sd(n);
    Window<S> window, second;
    column_windows(
        in, rx, first, last,
        [&] {
          std::fill(sum.begin(), sum.end(), S{0});
          std::fill(squares.begin(), squares.end(), S{0});
        },
        [&](const double* v) { add_squares(v, reference, sum.data(), squares.data(), n); },
        [&](const double* enters, const double* leaves) {
          exchange_squares(enters, leaves, reference, sum.data(), squares.data(), n);
        },
        [&](size_t x) {
          window.slide_over(sum.data(), n, ry);
          second.slide_over(squares.data(), n, ry);
          running_sums(window, second, n, factor, mean.data(), sd.data());
          mean_and_deviation(reference, mean.data(), sd.data(), n);
          each(x, mean.data(), sd.data());
          if (x % 64 == 0) pause();
        });
  }, interrupt);
}

// Mean and standard deviation about every pixel, handed over a column at a time: each(x, mean, sd). A whole reference grey
// is taken off first, so that the difference of sums stays small and sums of whole levels exact; sums of 8-bit levels are kept
// in whole numbers as long as they fit.
template <class Each, class Interrupt>
void local_statistics(Plane<const double> in, size_t rx, size_t ry, double reference, int threads, Each each, Interrupt interrupt) {
  reference = std::round(reference);
  const double most = 255.0 * 255.0 * static_cast<double>((2 * rx + 1) * (2 * ry + 1));
  if (levels_of(in) == Levels::bits8 && reference >= 0 && reference <= 255 && most < 2147483647.0) {
    box_statistics<std::int32_t>(in, rx, ry, reference, threads, each, interrupt);
  } else {
    box_statistics<double>(in, rx, ry, reference, threads, each, interrupt);
  }
}

}  // namespace bm
