// Where along a profile grey levels step: stretches over which they rise or fall, each with its
// steepest place.
#pragma once
#include <algorithm>
#include <cmath>
#include <cstddef>
#include <vector>

#include "../common/plane.h"

namespace bm {

struct Candidate1d {
  double place, height, slope;  // position; change of grey over the stretch; steepest slope
};

// `smooth`, `slope`: a profile with samples `step` apart; `hush`: slopes that noise makes. A
// stretch of one sign is cut in two where the slope between two of its peaks falls below four
// fifths of the lower one, and by more than noise would make it.
class StepFinder {
 public:
  StepFinder(const std::vector<double>& smooth, const std::vector<double>& slope, double step,
             double hush)
      : smooth_(smooth), slope_(slope), step_(step), hush_(hush) {}

  // `round`: the profile is closed; it must then begin where there is no edge.
  std::vector<Candidate1d> find() const {
    std::vector<Candidate1d> out;
    const std::size_t n = slope_.size();
    std::size_t i = 0;
    while (i < n) {
      if (!(steep(i) > 0)) {  // flat or not known
        ++i;
        continue;
      }
      std::size_t j = i;
      while (j + 1 < n && slope_[j + 1] * slope_[i] > 0) ++j;
      cut(i, j, out);
      i = j + 1;
    }
    return out;
  }

 private:
  double steep(std::size_t i) const { return std::fabs(slope_[i]); }

  void cut(std::size_t from, std::size_t to, std::vector<Candidate1d>& out) const {
    std::size_t peak = from, start = from, valley = from;
    bool falling = false;
    for (std::size_t i = from; i <= to; ++i) {
      if (!falling) {
        if (steep(i) > steep(peak)) peak = i;
        falling = is_below(steep(i), steep(peak));
        valley = i;
        continue;
      }
      if (steep(i) < steep(valley)) valley = i;
      if (is_below(steep(valley), steep(i))) {
        add(start, valley, peak, out);
        start = valley;
        peak = i;
        falling = false;
      }
    }
    add(start, to, peak, out);
  }

  bool is_below(double low, double high) const { return low < 0.8 * high && high - low > hush_; }

  // The change of grey reaches to the flanks of the samples at both ends.
  void add(std::size_t from, std::size_t to, std::size_t peak,
           std::vector<Candidate1d>& out) const {
    const double height = smooth_[to] - smooth_[from] + 0.5 * (slope_[from] + slope_[to]) * step_;
    out.push_back({(static_cast<double>(peak) + offset(peak)) * step_, height, slope_[peak]});
  }

  // A parabola through the peak and its neighbours.
  double offset(std::size_t i) const {
    if (i == 0 || i + 1 >= slope_.size()) return 0;
    const double a = steep(i - 1), b = steep(i), c = steep(i + 1), bend = a - 2 * b + c;
    if (!(bend < 0) || slope_[i - 1] * slope_[i + 1] < 0) return 0;
    return std::clamp(0.5 * (a - c) / bend, -0.5, 0.5);
  }

  const std::vector<double>&smooth_, &slope_;
  double step_, hush_;
};

}  // namespace bm
