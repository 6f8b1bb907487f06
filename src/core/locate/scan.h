// Where a pattern may lie: at the coarsest level of the pyramid every place, turn and scale is
// tried. A pose's likeness is the mean over the pattern's points of the cosine between the taught
// direction and that of the slope found there (Steger 2001): grey levels do not enter, flat places
// count zero, and what hides a part takes away no more than its share. Directions are rounded to
// sixteen and cosines to a few levels, so that sums of bytes do (after Hinterstoisser et al. 2012).
#pragma once
#include <algorithm>
#include <array>
#include <cmath>
#include <cstdint>
#include <vector>

#include "../common/parallel.h"
#include "pattern.h"
#include "slope.h"

namespace bm {

constexpr size_t directions = 16;

inline size_t direction_of(double nx, double ny) {
  const double at = std::atan2(ny, nx) / full_turn * static_cast<double>(directions);
  return static_cast<size_t>(static_cast<ptrdiff_t>(std::lround(at)) &
                             static_cast<ptrdiff_t>(directions - 1));
}

// For each direction a plane of cosines, as whole numbers to +-`top`, with a margin of zeros.
class Likeness {
 public:
  Likeness(const Level& level, float least_slope, int top, size_t margin)
      : margin_(margin),
        rows_(level.rows + 2 * margin + stretch),
        size_(rows_ * (level.cols + 2 * margin)),
        cosine_(size_ * directions, 0) {
    std::array<std::array<std::uint8_t, directions>, directions> table;
    for (size_t a = 0; a < directions; ++a) {
      for (size_t b = 0; b < directions; ++b) {
        const double angle = full_turn * static_cast<double>(a) / directions -
                             full_turn * static_cast<double>(b) / directions;
        table[a][b] = static_cast<std::uint8_t>(std::lround(top * std::cos(angle)));
      }
    }
    std::vector<std::uint8_t> found(level.rows);
    for (size_t x = 1; x + 1 < level.cols; ++x) {
      find_directions(level, x, least_slope, found.data());
      for (size_t d = 0; d < directions; ++d) {
        std::uint8_t* to = cosine_.data() + d * size_ + (x + margin) * rows_ + margin;
        for (size_t y = 1; y + 1 < level.rows; ++y)
          if (found[y] < directions) to[y] = table[d][found[y]];
      }
    }
  }

  // Cosines of direction d from row y of column x on.
  const std::uint8_t* at(size_t d, ptrdiff_t x, ptrdiff_t y) const {
    return cosine_.data() + d * size_ + (x + static_cast<ptrdiff_t>(margin_)) * rows_ + y +
           static_cast<ptrdiff_t>(margin_);
  }

  static constexpr size_t stretch = 128;  // rows taken at once

 private:
  static void find_directions(const Level& level, size_t x, float least, std::uint8_t* to) {
    const float* p = level.col(x);
    const float least_square = least * least;
    for (size_t y = 1; y + 1 < level.rows; ++y) {
      const SlopeVector s = slope_at(p + y, static_cast<ptrdiff_t>(level.rows));
      to[y] = s.x * s.x + s.y * s.y > least_square ? sixteenth(s) : directions;
    }
  }

  // direction_of() by comparisons.
  static std::uint8_t sixteenth(SlopeVector s) {
    const float ax = std::fabs(s.x), ay = std::fabs(s.y);
    const int steps = (ay > 0.19891237f * ax) + (ay > 0.66817864f * ax) + (ay > 1.49660576f * ax) +
                      (ay > 5.02733949f * ax);
    const int half = s.x >= 0 ? steps : 8 - steps;
    return static_cast<std::uint8_t>((s.y >= 0 ? half : 16 - half) & 15);
  }

  size_t margin_, rows_, size_;
  std::vector<std::uint8_t> cosine_;
};

// More points are not summed: bytes would not hold them.
constexpr size_t most_summed = 60;

// The pattern in one turn and scale, rounded to pixels of the level.
struct TurnedPattern {
  double turn, scale;
  struct Entry {
    size_t direction;
    ptrdiff_t x, y;
  };
  std::vector<Entry> entries;
};

// Every so many-th point is summed.
inline size_t summed_apart(const PatternLevel& taught) {
  return (taught.points.size() + most_summed - 1) / most_summed;
}
inline size_t summed_points(const PatternLevel& taught) {
  return (taught.points.size() + summed_apart(taught) - 1) / summed_apart(taught);
}

// `step`: of turns in radians, and of scales as a share.
inline std::vector<TurnedPattern> turned_patterns(const PatternLevel& taught, double aspect,
                                                  const PoseRange& range, double step,
                                                  const Level& level) {
  const double shrink = std::ldexp(1.0, -taught.level);
  const double wide = static_cast<double>(level.cols), high = static_cast<double>(level.rows);
  auto steps = [](double span, double each) {
    return static_cast<size_t>(std::ceil(span / each - 1e-9)) + 1;
  };
  const double span = range.high - range.low;
  const bool closed = span >= full_turn - 1e-9;
  const size_t turns = range.turns() ? steps(span, step) - (closed ? 1 : 0) : 1;
  const size_t scales = range.scales() ? steps(std::log(range.large / range.small), step) : 1;
  std::vector<TurnedPattern> out;
  for (size_t j = 0; j < scales; ++j) {
    const double share =
        scales > 1 ? static_cast<double>(j) / static_cast<double>(scales - 1) : 0.5;
    const double scale = range.small * std::pow(range.large / range.small, share);
    for (size_t k = 0; k < turns; ++k) {
      const double whole = static_cast<double>(closed ? turns : std::max<size_t>(turns - 1, 1));
      const double turn =
          range.turns() ? range.low + span * static_cast<double>(k) / whole : range.low;
      TurnedPattern t{turn, scale, {}};
      const Placing place({0, 0, turn, scale}, aspect);
      for (size_t i = 0; i < taught.points.size(); i += summed_apart(taught)) {
        const Placing::Point at = place(taught.points[i]);
        const double x = at.x * shrink, y = at.y * shrink;
        // farther off it lies beyond the picture wherever the part is
        if (!(std::fabs(x) < wide && std::fabs(y) < high)) continue;
        t.entries.push_back({direction_of(at.nx, at.ny), std::lround(x), std::lround(y)});
      }
      out.push_back(std::move(t));
    }
  }
  return out;
}

// Sums over the points for a stretch of rows; the greatest and the least of them. Four registers
// of sums: as an array the compiler would keep them in memory.
typedef std::uint8_t ByteLane __attribute__((vector_size(32), aligned(1), may_alias));

BM_CLONES inline void sum_likeness(const std::uint8_t* const* from, size_t points, size_t row,
                                   std::int8_t* sums, int& most, int& least) {
  constexpr size_t n = Likeness::stretch, lane = sizeof(ByteLane);
  ByteLane a{}, b{}, c{}, d{};
  for (size_t k = 0; k < points; ++k) {
    const std::uint8_t* p = from[k] + row;
    a += *reinterpret_cast<const ByteLane*>(p);
    b += *reinterpret_cast<const ByteLane*>(p + lane);
    c += *reinterpret_cast<const ByteLane*>(p + 2 * lane);
    d += *reinterpret_cast<const ByteLane*>(p + 3 * lane);
  }
  *reinterpret_cast<ByteLane*>(sums) = a;
  *reinterpret_cast<ByteLane*>(sums + lane) = b;
  *reinterpret_cast<ByteLane*>(sums + 2 * lane) = c;
  *reinterpret_cast<ByteLane*>(sums + 3 * lane) = d;
  std::int8_t high = -128, low = 127;
  for (size_t i = 0; i < n; ++i) {
    high = std::max(high, sums[i]);
    low = std::min(low, sums[i]);
  }
  most = high;
  least = low;
}

struct ScanRule {
  int least;     // sum of a candidate
  double whole;  // sum of a perfect one
  bool either;   // bright and dark may be exchanged
  double grow;   // pixels of the picture to one of the level
};

// Candidates of the columns [first, last), in the picture's pixels.
inline void scan_columns(const Likeness& likeness, const std::vector<TurnedPattern>& patterns,
                         size_t rows, size_t first, size_t last, const ScanRule& rule,
                         std::vector<Candidate>& out) {
  std::vector<const std::uint8_t*> from;
  std::int8_t sums[Likeness::stretch];
  for (const TurnedPattern& t : patterns) {
    from.resize(t.entries.size());
    for (size_t x = first; x < last; ++x) {
      for (size_t k = 0; k < t.entries.size(); ++k) {
        const TurnedPattern::Entry& e = t.entries[k];
        from[k] = likeness.at(e.direction, static_cast<ptrdiff_t>(x) + e.x, e.y);
      }
      for (size_t row = 0; row < rows; row += Likeness::stretch) {
        int high, low;
        sum_likeness(from.data(), from.size(), row, sums, high, low);
        if (high < rule.least && !(rule.either && -low >= rule.least)) continue;
        for (size_t i = 0; i < std::min(Likeness::stretch, rows - row); ++i) {
          const int found = rule.either ? std::abs(static_cast<int>(sums[i])) : sums[i];
          if (found < rule.least) continue;
          const double x0 = static_cast<double>(x) + 0.5, y0 = static_cast<double>(row + i) + 0.5;
          out.push_back({{x0 * rule.grow, y0 * rule.grow, t.turn, t.scale}, found / rule.whole});
        }
      }
    }
  }
}

}  // namespace bm
