// Percentiles of all objects but those of one field, for each field in turn (a jackknife): found by
// bisection on the sums of all and of the field's own, so that nothing is summed anew.
#pragma once
#include <algorithm>
#include <cstddef>
#include <vector>

namespace bm {

class LeftOut {
 public:
  // x in rising order; `field` counts from 0.
  LeftOut(const double* x, const double* share, const int* field, std::size_t n, std::size_t fields)
      : x_(x), share_(share), field_(field), until_(n), own_(fields) {
    double sum = 0;
    for (std::size_t i = 0; i < n; ++i) {
      until_[i] = sum += share[i];
      Own& own = own_[static_cast<std::size_t>(field[i])];
      own.sum.push_back((own.sum.empty() ? 0 : own.sum.back()) + share[i]);
      own.at.push_back(i);
    }
  }

  // An object stands at the middle of its own share; between two it is interpolated.
  double percentile(std::size_t left, double p) const {
    const std::size_t n = until_.size();
    const double goal = p * (until_.back() - own_[left].sum.back());
    std::size_t low = 0, high = n - 1;  // first whose sum without the field reaches the goal
    while (low < high) {
      const std::size_t half = low + (high - low) / 2;
      if (sum_without(left, half) >= goal)
        high = half;
      else
        low = half + 1;
    }
    std::size_t after = others(left, low, +1, n);
    if (after < n && middle(left, after) < goal) after = others(left, after + 1, +1, n);
    const std::size_t before = others(left, (after < n ? after : n) - 1, -1, n);
    if (after >= n) return x_[before];
    if (before >= n) return x_[after];
    const double from = middle(left, before), to = middle(left, after);
    return to == from ? x_[after]
                      : x_[before] + (x_[after] - x_[before]) * (goal - from) / (to - from);
  }

 private:
  struct Own {
    std::vector<double> sum;
    std::vector<std::size_t> at;
  };

  double sum_without(std::size_t left, std::size_t i) const {
    const Own& own = own_[left];
    const auto k = std::upper_bound(own.at.begin(), own.at.end(), i) - own.at.begin();
    return until_[i] - (k == 0 ? 0 : own.sum[static_cast<std::size_t>(k - 1)]);
  }
  double middle(std::size_t left, std::size_t i) const {
    return sum_without(left, i) - share_[i] / 2;
  }
  // The next object of another field, from i on; n or beyond when there is none.
  std::size_t others(std::size_t left, std::size_t i, int step, std::size_t n) const {
    while (i < n && field_[i] == static_cast<int>(left)) i += static_cast<std::size_t>(step);
    return i;
  }

  const double* x_;
  const double* share_;
  const int* field_;
  std::vector<double> until_;
  std::vector<Own> own_;
};

}  // namespace bm
