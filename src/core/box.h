// Means (and standard deviations) over windows of (2 rx + 1) x (2 ry + 1) pixels by running sums: column sums kept
// from column to column, then a running sum down each column (McDonnell 1981). Sums of whole levels are exact.
#pragma once
#include <cmath>
#include <vector>

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
BM_CLONES inline void square_shifted(const double* v, double reference, double* out, size_t n) {
  for (size_t i = 0; i < n; ++i) out[i] = (v[i] - reference) * (v[i] - reference);
}
BM_CLONES inline void shift_values(const double* v, double reference, double* out, size_t n) {
  for (size_t i = 0; i < n; ++i) out[i] = v[i] - reference;
}

// to[y] = factor * (sum[y - ry] + ... + sum[y + ry]), mirrored at the frame.
inline void running_sum(const double* sum, size_t rows, size_t ry, double factor, double* padded, double* to) {
  const size_t n = rows + 2 * ry;
  load_rows(sum, rows, -static_cast<ptrdiff_t>(ry), n, padded);
  double total = 0;
  for (size_t i = 0; i < 2 * ry; ++i) total += padded[i];
  for (size_t y = 0; y < rows; ++y) {
    total += padded[y + 2 * ry];
    to[y] = total * factor;
    total -= padded[y];
  }
}

constexpr size_t box_block = 512;  // columns after which running sums begin anew

// Column sums of one quantity of the picture, column by column. `value` writes a column's quantity.
template <class Value, class Each>
void column_sums(Plane<const double> in, size_t rx, size_t first, size_t last, Value value, Each each) {
  const ptrdiff_t r = static_cast<ptrdiff_t>(rx);
  std::vector<double> sum(in.rows), enters(in.rows), leaves(in.rows);
  for (size_t from = first; from < last; from += box_block) {
    std::fill(sum.begin(), sum.end(), 0.0);
    for (ptrdiff_t x = static_cast<ptrdiff_t>(from) - r; x < static_cast<ptrdiff_t>(from) + r; ++x) {
      add_column(value(reflect(x, in.cols), enters.data()), sum.data(), in.rows);
    }
    const size_t stop = std::min(last, from + box_block);
    for (size_t x = from; x < stop; ++x) {
      const double* in_comes = value(reflect(static_cast<ptrdiff_t>(x) + r, in.cols), enters.data());
      if (x == from) add_column(in_comes, sum.data(), in.rows);
      else exchange_column(in_comes, value(reflect(static_cast<ptrdiff_t>(x) - r - 1, in.cols), leaves.data()), sum.data(), in.rows);
      each(x, sum.data());
    }
  }
}

template <class Interrupt>
void box_mean(Plane<const double> in, Plane<double> out, size_t rx, size_t ry, int threads, Interrupt interrupt) {
  const double factor = 1.0 / static_cast<double>((2 * rx + 1) * (2 * ry + 1));
  over_columns(in.cols, threads, box_block, [&](size_t first, size_t last, auto pause) {
    std::vector<double> padded(in.rows + 2 * ry);
    column_sums(in, rx, first, last, [&](size_t x, double*) { return in.col(x); }, [&](size_t x, const double* sum) {
      running_sum(sum, in.rows, ry, factor, padded.data(), out.col(x));
      if (x % 256 == 0) pause();
    });
  }, interrupt);
}

// Mean and standard deviation about every pixel, handed over a column at a time: each(x, mean, sd). A reference grey is
// taken off before squaring, so that the difference of sums stays small.
template <class Each, class Interrupt>
void box_statistics(Plane<const double> in, size_t rx, size_t ry, double reference, int threads, Each each, Interrupt interrupt) {
  const double factor = 1.0 / static_cast<double>((2 * rx + 1) * (2 * ry + 1));
  over_columns(in.cols, threads, box_block, [&](size_t first, size_t last, auto pause) {
    std::vector<double> padded(in.rows + 2 * ry), mean(in.rows), square(in.rows * box_block);
    for (size_t from = first; from < last; from += box_block) {
      const size_t stop = std::min(last, from + box_block);
      column_sums(in, rx, from, stop, [&](size_t x, double* to) -> const double* {
        square_shifted(in.col(x), reference, to, in.rows);
        return to;
      }, [&](size_t x, const double* sum) {
        running_sum(sum, in.rows, ry, factor, padded.data(), &square[(x - from) * in.rows]);
      });
      column_sums(in, rx, from, stop, [&](size_t x, double* to) -> const double* {
        shift_values(in.col(x), reference, to, in.rows);
        return to;
      }, [&](size_t x, const double* sum) {
        running_sum(sum, in.rows, ry, factor, padded.data(), mean.data());
        double* sd = &square[(x - from) * in.rows];
        for (size_t y = 0; y < in.rows; ++y) {
          sd[y] = std::sqrt(std::max(0.0, sd[y] - mean[y] * mean[y]));
          mean[y] += reference;
        }
        each(x, mean.data(), sd);
        if (x % 64 == 0) pause();
      });
    }
  }, interrupt);
}

}  // namespace bm
