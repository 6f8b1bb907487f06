// Median over a window of (2 rx + 1) x (2 ry + 1) pixels, reflecting frame, exact for any values.
#pragma once
#include <cstdint>

#include "../common/levels.h"
#include "median_histogram.h"
#include "median_rank.h"
#include "median_sort.h"
#include "../common/parallel.h"

namespace bm {

template <class T, class Interrupt>
bool median_small(Plane<const double> in, Plane<double> out, std::size_t rx, std::size_t ry,
                  std::size_t left, std::size_t right, Interrupt pause) {
  if (rx != ry || rx > 2) return false;
  if (rx == 1)
    median_sort<3, T>(in, out, left, right, pause);
  else
    median_sort<5, T>(in, out, left, right, pause);
  return true;
}

template <class Interrupt>
void median(Plane<const double> in, Plane<double> out, std::size_t rx, std::size_t ry, int threads,
            Interrupt interrupt) {
  const Levels levels = levels_of(in, threads);
  if (rx == 0 && ry == 0) {
    std::copy(in.data, in.data + in.size(), out.data);
    return;
  }
  over_columns(
      in.cols, threads, 1,
      [&](std::size_t left, std::size_t right, auto pause) {
        if (levels == Levels::bits8) {
          if (median_small<std::uint8_t>(in, out, rx, ry, left, right, pause)) return;
          if ((2 * rx + 1) * (2 * ry + 1) < 65536)
            return median_histogram(in, out, rx, ry, left, right, pause);
        } else if (levels == Levels::bits16) {
          if (median_small<std::uint16_t>(in, out, rx, ry, left, right, pause)) return;
        } else {
          if (median_small<double>(in, out, rx, ry, left, right, pause)) return;
          return median_rank<std::uint64_t>(in, out, rx, ry, sortable, left, right, pause);
        }
        median_rank<std::uint16_t>(
            in, out, rx, ry, [](double v) { return static_cast<std::uint16_t>(v); }, left, right,
            pause);
      },
      interrupt);
}

}  // namespace bm
