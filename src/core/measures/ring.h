// How much of a ring round each of many points lies within a range of grey levels.
#pragma once
#include <algorithm>
#include <cmath>
#include <cstdint>
#include <vector>

#include "../common/plane.h"

namespace bm {

struct RingRule {
  double inner, outer;  // radii in pixels across
  double aspect;        // height of a pixel over its width
  double low, high;     // grey levels, both included
};

struct RingShare {
  size_t whole = 0;   // pixels of the ring, those beyond the frame too
  size_t seen = 0;    // of them in the picture and in the sample
  size_t within = 0;  // of those in the range of grey levels
};

// `outside` marks pixels that are not sample; it may be empty. Pixels count by their centres.
inline RingShare ring_share(Plane<const double> picture, Plane<const int> outside, double x,
                            double y, const RingRule& rule) {
  RingShare found;
  const auto nearest = [](double v) { return static_cast<ptrdiff_t>(std::floor(v)); };
  const double tall = rule.outer / rule.aspect, inner = rule.inner * rule.inner,
               outer = rule.outer * rule.outer;
  for (ptrdiff_t i = nearest(x - rule.outer) - 1; i <= nearest(x + rule.outer) + 1; ++i) {
    const double dx = static_cast<double>(i) + 0.5 - x;
    for (ptrdiff_t j = nearest(y - tall) - 1; j <= nearest(y + tall) + 1; ++j) {
      const double dy = (static_cast<double>(j) + 0.5 - y) * rule.aspect,
                   square = dx * dx + dy * dy;
      if (square < inner || square > outer) continue;
      ++found.whole;
      if (i < 0 || j < 0 || i >= static_cast<ptrdiff_t>(picture.cols) ||
          j >= static_cast<ptrdiff_t>(picture.rows))
        continue;
      const size_t at = static_cast<size_t>(i) * picture.rows + static_cast<size_t>(j);
      if (outside.size() > 0 && outside.data[at] != 0) continue;
      ++found.seen;
      found.within += picture.data[at] >= rule.low && picture.data[at] <= rule.high;
    }
  }
  return found;
}

}  // namespace bm
