// An edge followed along a band: the line of greatest slope from one end to the other that moves at
// most a pixel to the side a step (dynamic programming, Bellman 1957; for contours Montanari 1971),
// then placed to a fraction of a pixel by fits of a blurred step across it.
#pragma once
#include <algorithm>
#include <cmath>
#include <cstddef>
#include <cstdint>
#include <limits>
#include <vector>

#include "../common/speed.h"
#include "../gauge/step_fit.h"
#include "band.h"

namespace bm {

BM_CLONES inline void add_difference(const float* __restrict a, const float* __restrict b, float w,
                                     float* __restrict to, std::size_t n) {
  for (std::size_t i = 0; i < n; ++i) to[i] += w * (a[i] - b[i]);
}

// Slope across the band, with the sign that is wanted, of the mean of `wide` lines; what is not
// seen has none.
class SlopeBand {
 public:
  SlopeBand(const Band& band, std::size_t wide, double sigma) : band_(band) {
    const std::size_t n = band.along, m = band.across;
    slope_.assign(n * m, 0);
    std::vector<float> sum(m), count(m);
    const ptrdiff_t half = static_cast<ptrdiff_t>(wide / 2), last = static_cast<ptrdiff_t>(n);
    const std::vector<float> lever = levers(sigma);
    for (ptrdiff_t i = -half; i < last; ++i) {
      if (i + half < last) add(i + half, 1, sum, count);
      if (i - half - 1 >= 0) add(i - half - 1, -1, sum, count);
      if (i >= 0) derive(sum, count, lever, slope_.data() + static_cast<std::size_t>(i) * m);
    }
  }
  const float* line(std::size_t i) const { return slope_.data() + i * band_.across; }

 private:
  static std::vector<float> levers(double sigma) {
    const std::size_t reach = static_cast<std::size_t>(std::ceil(3 * sigma));
    std::vector<float> out(reach + 1);
    double sum = 0;
    for (std::size_t k = 1; k <= reach; ++k) {
      const double z = static_cast<double>(k), w = z * std::exp(-0.5 * z * z / (sigma * sigma));
      out[k] = static_cast<float>(w);
      sum += 2 * z * w;
    }
    for (float& v : out) v = static_cast<float>(v / sum);
    return out;
  }

  void add(ptrdiff_t i, float sign, std::vector<float>& sum, std::vector<float>& count) const {
    const float* line = band_.line(static_cast<std::size_t>(i));
    for (std::size_t j = 0; j < band_.across; ++j) {
      const bool seen = line[j] == line[j];
      sum[j] += seen ? sign * line[j] : 0;
      count[j] += seen ? sign : 0;
    }
  }

  void derive(const std::vector<float>& sum, const std::vector<float>& count,
              const std::vector<float>& lever, float* out) {
    const std::size_t m = band_.across, reach = lever.size() - 1;
    mean_.assign(m + 2 * reach, 0);
    float* mean = mean_.data() + reach;
    float last = 0;
    bool any = false;
    std::size_t first = m;
    for (std::size_t j = 0; j < m; ++j) {
      if (count[j] > 0.5f) {
        last = sum[j] / count[j];
        if (!any) first = j;
        any = true;
      }
      mean[j] = last;  // what is not seen goes on as it was: no slope arises there
    }
    if (!any) return;
    for (std::size_t j = 0; j < first; ++j) mean[j] = mean[first];
    for (std::size_t k = 1; k <= reach; ++k) {
      mean_[reach - k] = mean[0];
      mean[m - 1 + k] = mean[m - 1];
    }
    for (std::size_t k = 1; k <= reach; ++k) {
      add_difference(mean + k, mean - k, lever[k], out, m);
    }
    for (std::size_t j = 0; j < m; ++j)
      if (!(count[j] > 0.5f)) out[j] = 0;
  }

  const Band& band_;
  std::vector<float> slope_, mean_;
};

// The best that lines come to at every offset, from what they came to at the place before.
BM_CLONES inline void best_after(const float* __restrict before, const float* __restrict slope,
                                 float sign, float bend, std::size_t m, float* __restrict after) {
  for (std::size_t j = 1; j + 1 < m; ++j) {
    const float left = before[j - 1] - bend, right = before[j + 1] - bend, stay = before[j];
    const float side = left > right ? left : right, best = side > stay ? side : stay;
    const float gain = sign * slope[j];
    after[j] = best + 0.5f * (gain + std::fabs(gain));  // slopes of the other sign count as none
  }
}

// Offsets (indices across) of the best line. `sign` 1 or -1; `wall`: offsets to keep away from by
// `apart`, one for each place, or none.
inline std::vector<std::size_t> best_line(const Band& band, const SlopeBand& slopes, int sign,
                                          const std::vector<std::size_t>& wall, double apart) {
  const std::size_t n = band.along, m = band.across;
  std::vector<float> tops;
  for (std::size_t i = 0; i < n; i += std::max<std::size_t>(1, n / 256)) {
    const float* line = slopes.line(i);
    float top = 0;
    for (std::size_t j = 0; j < m; ++j) top = std::max(top, static_cast<float>(sign) * line[j]);
    tops.push_back(top);
  }
  std::nth_element(tops.begin(), tops.begin() + static_cast<ptrdiff_t>(tops.size() / 2),
                   tops.end());
  const float bend = 0.1f * tops[tops.size() / 2];
  // a closed band is gone round twice, and its second half and first half of the next turn kept
  const std::size_t turns = band.closed ? 2 : 1;
  const std::size_t total = turns * n;
  const float never = -1e30f;
  std::vector<float> best((total + 1) * m, never);
  std::fill(best.begin(), best.begin() + static_cast<ptrdiff_t>(m), 0.0f);
  for (std::size_t t = 0; t < total; ++t) {
    const std::size_t i = t % n;
    float* after = best.data() + (t + 1) * m;
    best_after(after - m, slopes.line(i), static_cast<float>(sign), bend, m, after);
    if (wall.empty()) continue;
    const double w = static_cast<double>(wall[i]), last = static_cast<double>(m - 1);
    std::fill(after + static_cast<ptrdiff_t>(std::max(0.0, std::ceil(w - apart))),
              after + static_cast<ptrdiff_t>(std::min(last, std::floor(w + apart))) + 1, never);
  }
  std::vector<std::size_t> out(total);
  const float* now = best.data() + total * m;
  std::size_t j = static_cast<std::size_t>(std::max_element(now, now + m) - now);
  for (std::size_t t = total; t-- > 0;) {
    out[t] = j;
    const float* before = best.data() + t * m;
    const float stay = before[j], left = j > 0 ? before[j - 1] - bend : never,
                right = j + 1 < m ? before[j + 1] - bend : never;
    if (std::max(left, right) > stay) j = left > right ? j - 1 : j + 1;
  }
  if (turns == 1) return out;
  std::vector<std::size_t> middle(n);
  for (std::size_t t = n / 2; t < n / 2 + n; ++t) middle[t % n] = out[t];
  return middle;
}

}  // namespace bm
