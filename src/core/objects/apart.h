// Objects that touch, set apart: their pixels without those that have another object to the right
// or below.
#pragma once
#include "../common/plane.h"
#include "../common/speed.h"

namespace bm {

BM_CLONES inline void without_touching(const int* __restrict own, const int* __restrict right,
                                       const int* __restrict below, int* __restrict to,
                                       std::size_t n) {
  for (std::size_t i = 0; i < n; ++i) {
    to[i] = (own[i] > 0) & ((right[i] <= 0) | (right[i] == own[i])) &
            ((below[i] <= 0) | (below[i] == own[i]));
  }
}

inline void apart(Plane<const int> labels, Plane<int> out) {
  const std::size_t rows = labels.rows, last = rows - 1;
  for (std::size_t x = 0; x < labels.cols && rows > 0; ++x) {
    const int *own = labels.col(x), *right = labels.col(std::min(x + 1, labels.cols - 1));
    without_touching(own, right, own + 1, out.col(x), last);
    without_touching(own + last, right + last, own + last, out.col(x) + last, 1);
  }
}

}  // namespace bm
