// Several classes of grey levels at once: the cuts that maximise the between-class variance (Otsu
// 1979), the same as the least sum of squares within classes, found exactly. Dynamic programming
// over the levels in use; the best last cut never moves back, so each stage is solved by divide and
// conquer (Wang & Song 2011; Gronlund et al. 2017).
#pragma once
#include <algorithm>
#include <cstddef>
#include <limits>
#include <vector>

namespace bm {

class ClassCuts {
 public:
  explicit ClassCuts(const std::vector<double>& counts) {
    double mean = 0, total = 0;
    for (std::size_t k = 0; k < counts.size(); ++k) {
      if (counts[k] <= 0) continue;
      level_.push_back(static_cast<double>(k));
      mean += counts[k] * static_cast<double>(k);
      total += counts[k];
    }
    mean = total > 0 ? mean / total : 0;
    n_.assign(1, 0);
    s_.assign(1, 0);
    q_.assign(1, 0);
    for (double v : level_) {
      const double w = counts[static_cast<std::size_t>(v)],
                   d = v - mean;  // squares stay small about the mean
      n_.push_back(n_.back() + w);
      s_.push_back(s_.back() + w * d);
      q_.push_back(q_.back() + w * d * d);
    }
  }

  // Highest level of every class but the last; empty when there are fewer levels in use than
  // classes.
  std::vector<double> cuts(std::size_t classes) {
    const std::size_t n = level_.size();
    if (n < classes || classes < 2) return {};
    before_.assign(n + 1, 0);
    for (std::size_t j = 0; j <= n; ++j) before_[j] = within(0, j);
    std::vector<std::vector<std::size_t>> from(classes + 1, std::vector<std::size_t>(n + 1, 0));
    for (std::size_t c = 2; c <= classes; ++c) {
      now_.assign(n + 1, std::numeric_limits<double>::infinity());
      solve(from[c], c, n, c - 1, n - 1);
      before_.swap(now_);
    }
    std::vector<double> out(classes - 1);
    std::size_t end = n;
    for (std::size_t c = classes; c >= 2; --c) {
      end = from[c][end];
      out[c - 2] = level_[end - 1];
    }
    return out;
  }

 private:
  // Sum of squares about their mean of the levels first .. last - 1 in use.
  double within(std::size_t first, std::size_t last) const {
    const double n = n_[last] - n_[first], s = s_[last] - s_[first];
    return n > 0 ? q_[last] - q_[first] - s * s / n : 0;
  }
  // Best last cut for all ends low .. high, known to lie in cut_low .. cut_high.
  void solve(std::vector<std::size_t>& from, std::size_t low, std::size_t high, std::size_t cut_low,
             std::size_t cut_high) {
    if (low > high) return;
    const std::size_t middle = low + (high - low) / 2;
    std::size_t best = cut_low;
    for (std::size_t k = cut_low; k <= std::min(cut_high, middle - 1); ++k) {
      const double cost = before_[k] + within(k, middle);
      if (cost < now_[middle]) {
        now_[middle] = cost;
        best = k;
      }
    }
    from[middle] = best;
    if (middle > low) solve(from, low, middle - 1, cut_low, best);
    solve(from, middle + 1, high, best, cut_high);
  }

  std::vector<double> level_, n_, s_, q_, before_, now_;
};

}  // namespace bm
