// Non-local means (Buades, Coll & Morel 2005, 2011): the mean of the pixels within reach, each by
// how alike the patches round it and round this pixel are. For each shift the squared differences
// of the whole picture are summed over patches (Darbon et al. 2008), and as likeness is mutual,
// half of the shifts do. Tiles begin at fixed places, so threads change no bit.
#pragma once
#include <algorithm>
#include <cmath>
#include <vector>

#include "../common/parallel.h"
#include "../common/plane.h"
#include "../common/speed.h"

namespace bm {

struct NonlocalRule {
  ptrdiff_t reach_x, reach_y;  // in pixels
  double noise;                // standard deviation
};
constexpr ptrdiff_t patch_radius = 2, patch_width = 2 * patch_radius + 1;
// Weights fall off over so many standard deviations of the noise (found by simulation:
// bench/noise.R).
constexpr double weight_fall = 0.6;

// Sums of squared differences along rows move on by a column: the one that enters goes where the
// one that leaves was kept. A difference that alone takes all weight counts no more than that, so
// that running sums stay exact enough.
BM_CLONES inline void next_column(const float* a, const float* b, float most,
                                  float* __restrict kept, float* __restrict sum, size_t n) {
  for (size_t i = 0; i < n; ++i) {
    const float square = std::min((a[i] - b[i]) * (a[i] - b[i]), most);
    sum[i] += square - kept[i];
    kept[i] = square;
  }
}

// By std::max() the compiler would branch, and not vectorise.
BM_INLINE float positive_part(float v) { return 0.5f * (v + std::fabs(v)); }

// Weights of patches: exp(-t) as (1 - t / 16)^16, zero from t = 16, where t is by how much the sum
// exceeds that of like patches, as a share of the fall.
BM_CLONES inline void weigh(const float* across, float like, float per_fall, float* __restrict to,
                            size_t n) {
  for (size_t i = 0; i < n; ++i) {
    float sum = across[i];
    BM_UNROLL
    for (ptrdiff_t k = 1; k < patch_width; ++k) sum += across[i + static_cast<size_t>(k)];
    float w = positive_part(1 - positive_part(sum - like) * per_fall * (1.0f / 16));
    w *= w;
    w *= w;
    w *= w;
    to[i] = w * w;
  }
}
BM_CLONES inline void add_weighted(const float* weight, const float* grey, float* __restrict sum,
                                   float* __restrict total, size_t n) {
  for (size_t i = 0; i < n; ++i) {
    sum[i] += weight[i] * grey[i];
    total[i] += weight[i];
  }
}

// One tile of a picture with what lies round it.
class NonlocalTile {
 public:
  NonlocalTile(const NonlocalRule& rule, size_t rows, size_t cols)
      : rule_(rule),
        margin_x_(rule.reach_x + patch_radius),
        margin_y_(rule.reach_y + patch_radius),
        tall_(rows + 2 * static_cast<size_t>(margin_y_)),
        grey_(tall_ * (cols + 2 * static_cast<size_t>(margin_x_))),
        sum_(rows * cols),
        total_(rows * cols),
        squares_(tall_ * static_cast<size_t>(patch_width)),
        across_(tall_),
        weight_(tall_) {}

  void filter(Plane<const double> in, Plane<double> out, size_t left, size_t top, size_t cols,
              size_t rows) {
    rows_ = static_cast<ptrdiff_t>(rows);
    cols_ = static_cast<ptrdiff_t>(cols);
    load(in, left, top);
    for (ptrdiff_t dx = 0; dx <= rule_.reach_x; ++dx) {
      for (ptrdiff_t dy = dx == 0 ? 1 : -rule_.reach_y; dy <= rule_.reach_y; ++dy) shift(dx, dy);
    }
    for (ptrdiff_t x = 0; x < cols_; ++x) {
      double* to = out.col(left + static_cast<size_t>(x)) + top;
      const float *sum = of(sum_, x), *total = of(total_, x);
      for (size_t y = 0; y < rows; ++y) to[y] = static_cast<double>(sum[y] / total[y]);
    }
  }

 private:
  // Column x, row y of the tile; negative ones lie round it.
  const float* grey(ptrdiff_t x, ptrdiff_t y) const {
    return grey_.data() + static_cast<size_t>(x + margin_x_) * tall_ + (y + margin_y_);
  }
  float* of(std::vector<float>& sums, ptrdiff_t x) const { return sums.data() + x * rows_; }

  // The pixel itself counts as much as one whose patch is alike.
  void load(Plane<const double> in, size_t left, size_t top) {
    for (ptrdiff_t x = -margin_x_; x < cols_ + margin_x_; ++x) {
      load_rows(in.col(reflect(static_cast<ptrdiff_t>(left) + x, in.cols)), in.rows,
                static_cast<ptrdiff_t>(top) - margin_y_, static_cast<size_t>(rows_ + 2 * margin_y_),
                grey_.data() + static_cast<size_t>(x + margin_x_) * tall_);
    }
    for (ptrdiff_t x = 0; x < cols_; ++x) {
      std::copy(grey(x, 0), grey(x, rows_), of(sum_, x));
      std::fill(of(total_, x), of(total_, x) + rows_, 1.0f);
    }
  }

  // Every pixel of the tile with the one at (dx, dy) from it, and with the one opposite.
  void shift(ptrdiff_t dx, ptrdiff_t dy) {
    const ptrdiff_t first = std::min<ptrdiff_t>(0, -dy), last = std::max(rows_, rows_ - dy);
    const size_t high = static_cast<size_t>(last - first),
                 taller = high + static_cast<size_t>(patch_width - 1);
    const double variance = rule_.noise * rule_.noise, fall = variance * weight_fall * weight_fall,
                 pixels = static_cast<double>(patch_width * patch_width);
    const float like = static_cast<float>(2 * variance * pixels),
                per_fall = static_cast<float>(1 / (fall * pixels)),
                most = static_cast<float>((2 * variance + 16 * fall) * pixels);
    std::fill(squares_.begin(), squares_.end(), 0.0f);
    std::fill(across_.begin(), across_.end(), 0.0f);
    auto enter = [&](ptrdiff_t x) {
      float* to = squares_.data() + static_cast<size_t>((x + margin_x_) % patch_width) * tall_;
      next_column(grey(x, first - patch_radius), grey(x + dx, first - patch_radius + dy), most, to,
                  across_.data(), taller);
    };
    for (ptrdiff_t x = -dx - patch_radius; x < -dx + patch_radius; ++x) enter(x);
    for (ptrdiff_t x = -dx; x < cols_; ++x) {
      enter(x + patch_radius);
      weigh(across_.data(), like, per_fall, weight_.data(), high);
      if (x >= 0)
        add_weighted(weight_.data() - first, grey(x + dx, dy), of(sum_, x), of(total_, x),
                     static_cast<size_t>(rows_));
      if (x + dx < cols_)
        add_weighted(weight_.data() - first - dy, grey(x, -dy), of(sum_, x + dx),
                     of(total_, x + dx), static_cast<size_t>(rows_));
    }
  }

  const NonlocalRule rule_;
  const ptrdiff_t margin_x_, margin_y_;
  const size_t tall_;
  ptrdiff_t rows_ = 0, cols_ = 0;
  std::vector<float> grey_, sum_, total_, squares_, across_, weight_;
};

template <class Interrupt>
void nonlocal_means(Plane<const double> in, Plane<double> out, const NonlocalRule& rule,
                    int threads, Interrupt interrupt) {
  constexpr size_t wide = 64, high = 256;
  over_columns(
      in.cols, threads, wide,
      [&](size_t first, size_t last, auto pause) {
        NonlocalTile tile(rule, std::min(high, in.rows), std::min(wide, in.cols));
        for (size_t left = first; left < last; left += wide) {
          for (size_t top = 0; top < in.rows; top += high) {
            tile.filter(in, out, left, top, std::min(wide, last - left),
                        std::min(high, in.rows - top));
            pause();
          }
        }
      },
      interrupt);
}

}  // namespace bm
