// Outlines in a picture of colours, with smooth edges.
#pragma once
#include <algorithm>
#include <cmath>
#include <cstddef>
#include <cstdint>
#include <vector>

#include "raster.h"

namespace bm {

// Width of a line in pixels, and how much of it is drawn and left out by turns: nothing is left out
// when `off` is 0. Ends are round and reach half a width beyond what is drawn.
struct Pen {
  std::uint32_t colour;
  double width, on, off;
};

// Rings are drawn one by one; where a ring meets itself it covers no more than once.
class Drawing {
 public:
  explicit Drawing(Raster to) : to_(to) {}

  // A closed ring. Corners closer than half a pixel are drawn as one.
  void ring(const double* x, const double* y, std::size_t n, const Pen& pen) {
    if (n == 0 || !clear(x, y, n, pen.width / 2 + 0.5)) return;
    run_ = 0;
    double last_x = x[0], last_y = y[0];
    for (std::size_t i = 1; i < n; ++i) {
      if (std::fabs(x[i] - last_x) < 0.5 && std::fabs(y[i] - last_y) < 0.5) continue;
      piece(last_x, last_y, x[i], y[i], pen);
      last_x = x[i];
      last_y = y[i];
    }
    if (n != 2) piece(last_x, last_y, x[0], y[0], pen);  // two corners are a line
    put(pen.colour);
  }

 private:
  // Pixels from the first on, up to before the last.
  struct Span {
    std::ptrdiff_t first, last;
  };

  static Span span(double low, double high, const Span& within) {
    auto pixel = [&within](double at) {
      return static_cast<std::ptrdiff_t>(std::min(std::max(at, static_cast<double>(within.first)),
                                                  static_cast<double>(within.last)));
    };
    return {pixel(std::floor(low)), pixel(std::floor(high) + 1)};
  }

  // Room for what the ring covers of the picture; false where that is nothing.
  bool clear(const double* x, const double* y, std::size_t n, double reach) {
    const auto in_x = std::minmax_element(x, x + n), in_y = std::minmax_element(y, y + n);
    across_ = span(*in_x.first - reach, *in_x.second + reach, {0, to_.cols});
    down_ = span(*in_y.first - reach, *in_y.second + reach, {0, to_.rows});
    if (across_.first >= across_.last || down_.first >= down_.last) return false;
    width_ = across_.last - across_.first;
    cover_.assign(static_cast<std::size_t>(width_ * (down_.last - down_.first)), 0);
    return true;
  }

  std::uint8_t& cover(std::ptrdiff_t row, std::ptrdiff_t col) {
    return cover_[static_cast<std::size_t>((row - down_.first) * width_ + col - across_.first)];
  }

  // The parts of a straight line that are drawn.
  void piece(double x0, double y0, double x1, double y1, const Pen& pen) {
    const double length = std::hypot(x1 - x0, y1 - y0), period = pen.on + pen.off;
    if (pen.off <= 0 || length == 0) return stroke(x0, y0, x1, y1, pen.width / 2);
    for (double at = 0; at < length;) {
      const double place = std::fmod(run_ + at, period);
      const bool drawn = place < pen.on;
      // a least step, so that rounding cannot hold the pen where it is
      const double step = std::max((drawn ? pen.on : period) - place, 1e-6),
                   end = std::min(at + step, length);
      if (drawn) {
        const double a = at / length, b = end / length;
        stroke(x0 + a * (x1 - x0), y0 + a * (y1 - y0), x0 + b * (x1 - x0), y0 + b * (y1 - y0),
               pen.width / 2);
      }
      at = end;
    }
    run_ = std::fmod(run_ + length, period);
  }

  // How much of each pixel lies within `half` of a straight line, by the distance of its centre.
  void stroke(double x0, double y0, double x1, double y1, double half) {
    const double reach = half + 0.5, dx = x1 - x0, dy = y1 - y0, square = dx * dx + dy * dy;
    const Span across = span(std::min(x0, x1) - reach, std::max(x0, x1) + reach, across_),
               down = span(std::min(y0, y1) - reach, std::max(y0, y1) + reach, down_);
    const double inverse = square > 0 ? 1 / square : 0, band = reach * std::sqrt(square);
    for (std::ptrdiff_t row = down.first; row < down.last; ++row) {
      const double py = static_cast<double>(row) + 0.5 - y0;
      for (std::ptrdiff_t col = across.first; col < across.last; ++col) {
        const double px = static_cast<double>(col) + 0.5 - x0;
        if (std::fabs(px * dy - py * dx) > band) continue;  // far from the whole line
        const double t = std::min(std::max((px * dx + py * dy) * inverse, 0.0), 1.0);
        const double ax = px - t * dx, ay = py - t * dy, away = ax * ax + ay * ay;
        if (away >= reach * reach) continue;
        const double part = std::min(reach - std::sqrt(away), std::min(2 * half, 1.0));
        std::uint8_t& there = cover(row, col);
        there = std::max(there, static_cast<std::uint8_t>(255 * part + 0.5));
      }
    }
  }

  void put(std::uint32_t colour) {
    const std::uint32_t opaque = colour >> 24;
    const std::uint8_t* much = cover_.data();
    for (std::ptrdiff_t row = down_.first; row < down_.last; ++row) {
      std::uint32_t* line = to_.data + row * to_.cols;
      for (std::ptrdiff_t col = across_.first; col < across_.last; ++col, ++much) {
        if (*much) line[col] = blended(line[col], colour, (*much * opaque + 127) / 255);
      }
    }
  }

  Raster to_;
  Span across_{0, 0}, down_{0, 0};
  std::ptrdiff_t width_ = 0;
  std::vector<std::uint8_t> cover_;
  double run_ = 0;
};

}  // namespace bm
