// Least squares of one or several steps, blurred alike, on the raw pixels near them (Levenberg
// 1944, Marquardt 1963). With noise that differs from pixel to pixel no estimate of a place can be
// better: it reaches the bound of Cramér and Rao.
#pragma once
#include <algorithm>
#include <array>
#include <cmath>
#include <cstddef>
#include <vector>

#include "near_pixels.h"
#include "step_model.h"

namespace bm {

// A step: its place along the path at the path's middle, its height (above zero: rising), and the
// tangent of the angle that the edge is turned against the path's normal.
struct Step {
  double place, height, slant;
};

struct StepFit {
  bool good = false;
  double ground = 0, blur = 1, misfit = 0;  // grey before the first step; sum of squares
  double noise = 0;                         // standard deviation of what is left
  std::vector<Step> steps;
  std::vector<double> u, u_slant;  // standard uncertainties
  std::vector<double> shared;      // covariance of a place with the next one's
};

struct StepRule {
  bool tilt;                // whether edges may be slanted
  double rounding;          // of grey levels: 1 for whole levels, 0 for none
  double tolerance = 3e-4;  // steps smaller than this, in pixels, are the last
};

// In lanes, so that compilers vectorise it and every machine adds in one order.
BM_CLONES inline double dot(const double* a, const double* b, std::size_t n) {
  double lane[8] = {0, 0, 0, 0, 0, 0, 0, 0};
  std::size_t i = 0;
  for (; i + 8 <= n; i += 8) {
    BM_UNROLL for (std::size_t k = 0; k < 8; ++k) lane[k] += a[i + k] * b[i + k];
  }
  for (; i < n; ++i) lane[i % 8] += a[i] * b[i];
  return ((lane[0] + lane[4]) + (lane[1] + lane[5])) + ((lane[2] + lane[6]) + (lane[3] + lane[7]));
}

class StepFitter {
 public:
  explicit StepFitter(StepRule rule) : rule_(rule), tilt_(rule.tilt) {}

  // `start`: where the steps are thought to be, in order; `direction`: of the path there. Pixels
  // beyond five blurs of all steps count as ground, and are not gone through again.
  StepFit fit(const NearPixels& pixels, const StepFit& start, double dx, double dy, double aspect,
              double width) {
    box_ = std::max(std::fabs(dx), std::fabs(dy) * aspect);
    rest_ = std::min(std::fabs(dx), std::fabs(dy) * aspect) / std::sqrt(12.0);
    least_blur_ = std::max(rest_, 0.02);
    pitch_ = 0.25 * std::min(1.0, aspect);
    width_ = width;
    const bool straight = std::min(std::fabs(dx), std::fabs(dy)) < 1e-9, wide = width >= 3;
    tilt_ = rule_.tilt && wide;
    StepFit best = fit_once(pixels, start, width, straight);
    // else the misfit of a slanted edge would be taken for noise
    if (!tilt_ && wide && best.good && is_slanted(best)) {
      tilt_ = true;
      const StepFit slanted = fit_once(pixels, best, width, straight);
      if (slanted.good && slanted.misfit < best.misfit) best = slanted;
    }
    return best;
  }

  // The blur without what of the pixel was taken for blur.
  double own_blur(double blur) const {
    return std::sqrt(std::max(0.0, blur * blur - rest_ * rest_));
  }

 private:
  StepFit fit_once(const NearPixels& pixels, const StepFit& start, double width, bool straight) {
    const bool many = pixels.size() > 120, together = !tilt_ && (straight || many);
    take(pixels, start, width, together);
    StepFit f = start;
    f.good = false;
    if (total_ < parameters(start) + 1) return f;
    f = descend(start);
    if (!f.good) return f;
    if (together && !straight) take(pixels, start, width, false);
    state_errors(f);
    return f;
  }

  // Whether what is left changes across the path, at the edges, by more than noise would.
  bool is_slanted(const StepFit& f) {
    weigh(f, false);
    double lever = 0, spread = 0;
    for (std::size_t k = 0; k < f.steps.size(); ++k) {
      const Step& s = f.steps[k];
      for (std::size_t i = 0; i < d_.size(); ++i) u_[i] = d_[i] - s.place;
      step_seen(u_.data(), d_.size(), box_, f.blur, share_.data(), by_place_.data(),
                by_blur_.data());
      lever = spread = 0;
      for (std::size_t i = 0; i < d_.size(); ++i) {
        const double change = -s.height * by_place_[i];
        lever += change * (lever_[i] - model_[i] * turned_[i]);
        spread += change * change * spread_[i];
      }
      if (spread > 0 && lever * lever > 9 * spread * f.noise * f.noise) return true;
    }
    return false;
  }

  std::size_t per_step() const { return tilt_ ? 3 : 2; }
  std::size_t parameters(const StepFit& f) const { return 2 + per_step() * f.steps.size(); }

  // Pixels near the steps one by one, those before and behind as sums. `together`: those of nearly
  // one position as their mean, which moves no place; what they differ by is noise only where they
  // have one position exactly, on paths along rows or columns.
  void take(const NearPixels& p, const StepFit& start, double width, bool together) {
    const double reach = 5 * start.blur + 1.5 + (tilt_ ? 0.3 * width : 0);
    const double low = start.steps.front().place - reach, high = start.steps.back().place + reach;
    d_.clear();
    w_.clear();
    g_.clear();
    n_.clear();
    before_ = behind_ = Sum{};
    within_ = 0;
    total_ = p.size();
    for (std::size_t i = 0; i < p.size(); ++i) {
      if (p.along[i] < low) {
        before_.add(p.grey[i]);
      } else if (p.along[i] > high) {
        behind_.add(p.grey[i]);
      } else {
        d_.push_back(p.along[i]);
        w_.push_back(p.across[i]);
        g_.push_back(p.grey[i]);
      }
    }
    if (together) {
      merge();
    } else {
      n_.assign(d_.size(), 1);
      lever_.resize(d_.size());
      turned_.resize(d_.size());
      spread_.resize(d_.size());
      for (std::size_t i = 0; i < d_.size(); ++i) {
        lever_[i] = g_[i] * w_[i];
        turned_[i] = w_[i];
        spread_[i] = w_[i] * w_[i];
      }
    }
    share_.resize(d_.size());
    by_place_.resize(d_.size());
    by_blur_.resize(d_.size());
    u_.resize(d_.size());
    model_.resize(d_.size());
  }

  void merge() {
    if (d_.empty()) return;
    const auto ends = std::minmax_element(d_.begin(), d_.end());
    const double first = *ends.first, pitch = pitch_;
    const std::size_t bins = static_cast<std::size_t>((*ends.second - first) / pitch + 0.5) + 1;
    std::vector<double> place(bins), sum(bins), square(bins), count(bins), lever(bins),
        turned(bins), spread(bins);
    for (std::size_t i = 0; i < d_.size(); ++i) {
      const std::size_t k = static_cast<std::size_t>((d_[i] - first) / pitch + 0.5);
      place[k] += d_[i];
      sum[k] += g_[i];
      square[k] += g_[i] * g_[i];
      count[k] += 1;
      lever[k] += g_[i] * w_[i];
      turned[k] += w_[i];
      spread[k] += w_[i] * w_[i];
    }
    d_.clear();
    g_.clear();
    lever_.clear();
    turned_.clear();
    spread_.clear();
    for (std::size_t k = 0; k < bins; ++k) {
      if (count[k] == 0) continue;
      d_.push_back(place[k] / count[k]);
      g_.push_back(sum[k] / count[k]);
      n_.push_back(count[k]);
      lever_.push_back(lever[k]);
      turned_.push_back(turned[k]);
      spread_.push_back(spread[k]);
      within_ += square[k] - sum[k] * sum[k] / count[k];
    }
    w_.assign(d_.size(), 0);
  }

  struct Sum {
    double n = 0, sum = 0, square = 0;
    void add(double v) {
      n += 1;
      sum += v;
      square += v * v;
    }
    double misfit(double level) const { return square - 2 * level * sum + n * level * level; }
  };

  static constexpr std::size_t most = 2 + 3 * 8;
  using Matrix = std::array<std::array<double, most>, most>;
  using Vector = std::array<double, most>;

  // Sum of squares; with `want` also the normal equations.
  double weigh(const StepFit& f, bool want) {
    const std::size_t n = d_.size(), m = parameters(f);
    double all = 0;
    for (const Step& s : f.steps) all += s.height;
    if (want) clear_equations(m);
    for (std::size_t i = 0; i < n; ++i) model_[i] = f.ground;
    if (rows_.size() < m) rows_.resize(m);
    if (want) {
      for (std::size_t k = 0; k < m; ++k) rows_[k].assign(n, k == 0 ? 1.0 : 0.0);
    }
    for (std::size_t k = 0; k < f.steps.size(); ++k) {
      const Step& s = f.steps[k];
      const double turn = 1 / std::sqrt(1 + s.slant * s.slant);
      for (std::size_t i = 0; i < n; ++i) u_[i] = (d_[i] - s.place - s.slant * w_[i]) * turn;
      step_seen(u_.data(), n, box_, f.blur, share_.data(), by_place_.data(), by_blur_.data());
      for (std::size_t i = 0; i < n; ++i) model_[i] += s.height * share_[i];
      if (!want) continue;
      const std::size_t at = 2 + per_step() * k;
      double *blur = rows_[1].data(), *height = rows_[at].data(), *place = rows_[at + 1].data();
      for (std::size_t i = 0; i < n; ++i) {
        blur[i] += s.height * by_blur_[i];
        height[i] = share_[i];
        place[i] = -s.height * by_place_[i] * turn;
      }
      if (tilt_) {
        double* slant = rows_[at + 2].data();
        for (std::size_t i = 0; i < n; ++i)
          slant[i] = -s.height * by_place_[i] * (w_[i] * turn + u_[i] * s.slant * turn * turn);
      }
    }
    double misfit = within_ + before_.misfit(f.ground) + behind_.misfit(f.ground + all);
    for (std::size_t i = 0; i < n; ++i) {
      const double off = g_[i] - model_[i];
      misfit += n_[i] * off * off;
    }
    if (want) add_equations(f, n, m, all);
    return misfit;
  }

  void clear_equations(std::size_t m) {
    for (std::size_t i = 0; i < m; ++i) {
      right_[i] = 0;
      left_[i].fill(0);
    }
  }

  void add_equations(const StepFit& f, std::size_t n, std::size_t m, double all) {
    if (weighted_.size() < n) weighted_.resize(n);
    for (std::size_t i = 0; i < n; ++i) u_[i] = g_[i] - model_[i];
    for (std::size_t a = 0; a < m; ++a) {
      const double* row = rows_[a].data();
      for (std::size_t i = 0; i < n; ++i) weighted_[i] = n_[i] * row[i];
      right_[a] += dot(weighted_.data(), u_.data(), n);
      for (std::size_t b = 0; b <= a; ++b) left_[a][b] += dot(weighted_.data(), rows_[b].data(), n);
    }
    // the ground before all steps tells of its own level, that behind of all heights as well
    left_[0][0] += before_.n + behind_.n;
    right_[0] += before_.sum - before_.n * f.ground + behind_.sum - behind_.n * (f.ground + all);
    for (std::size_t k = 0; k < f.steps.size(); ++k) {
      const std::size_t at = 2 + per_step() * k;
      right_[at] += behind_.sum - behind_.n * (f.ground + all);
      left_[at][0] += behind_.n;
      for (std::size_t j = 0; j <= k; ++j) left_[at][2 + per_step() * j] += behind_.n;
    }
  }

  StepFit moved(const StepFit& f, const Vector& by) const {
    StepFit out = f;
    out.ground += by[0];
    out.blur = std::max(least_blur_, out.blur + by[1]);
    for (std::size_t k = 0; k < out.steps.size(); ++k) {
      const std::size_t at = 2 + per_step() * k;
      out.steps[k].height += by[at];
      out.steps[k].place += by[at + 1];
      if (tilt_) out.steps[k].slant += by[at + 2];
    }
    return out;
  }

  StepFit descend(StepFit f) {
    const std::size_t m = parameters(f);
    double damping = 1e-3;
    f.misfit = weigh(f, true);
    bool settled = false;
    for (int round = 0; round < 40 && !settled; ++round) {
      const bool pinned = f.blur <= least_blur_ && right_[1] < 0;
      Vector by;
      if (!solved(m, damping, pinned, by)) break;
      StepFit next = moved(f, by);
      double largest = std::fabs(next.blur - f.blur);
      for (std::size_t k = 0; k < f.steps.size(); ++k)
        largest = std::max({largest, std::fabs(next.steps[k].place - f.steps[k].place),
                            0.5 * width_ * std::fabs(next.steps[k].slant - f.steps[k].slant)});
      const bool small = largest < rule_.tolerance;
      next.misfit = weigh(next, !small);
      if (next.misfit <= f.misfit * (1 + 1e-12)) {
        f = next;
        damping = std::max(1e-7, damping * 0.1);
        settled = small;
      } else {
        if (small) settled = true;
        damping = std::max(1e-4, damping * 10);
        if (!settled) weigh(f, true);
        if (damping > 1e8) break;
      }
    }
    f.good = settled && likely(f);
    return f;
  }

  bool likely(const StepFit& f) const {
    for (std::size_t k = 0; k < f.steps.size(); ++k) {
      const Step& s = f.steps[k];
      if (!std::isfinite(s.place) || !std::isfinite(s.height) || std::fabs(s.slant) > 0.7)
        return false;
      if (k > 0 && s.place <= f.steps[k - 1].place) return false;
    }
    return std::isfinite(f.blur);
  }

  // Cholesky's factors of the damped equations; the blur is left as it is when it is pinned.
  bool factored(std::size_t m, double damping, bool pinned, Matrix& l) const {
    for (std::size_t i = 0; i < m; ++i) {
      for (std::size_t j = 0; j <= i; ++j) {
        double sum = left_[i][j];
        if (i == j) sum *= 1 + damping;
        if (pinned && (i == 1 || j == 1)) sum = i == j ? 1 : 0;
        for (std::size_t k = 0; k < j; ++k) sum -= l[i][k] * l[j][k];
        if (i == j) {
          if (!(sum > 1e-12 * std::fabs(left_[i][i]))) return false;
          l[i][i] = std::sqrt(sum);
        } else {
          l[i][j] = sum / l[j][j];
        }
      }
    }
    return true;
  }

  static void substitute(const Matrix& l, std::size_t m, Vector& v) {
    for (std::size_t i = 0; i < m; ++i) {
      for (std::size_t k = 0; k < i; ++k) v[i] -= l[i][k] * v[k];
      v[i] /= l[i][i];
    }
    for (std::size_t i = m; i-- > 0;) {
      for (std::size_t k = i + 1; k < m; ++k) v[i] -= l[k][i] * v[k];
      v[i] /= l[i][i];
    }
  }

  bool solved(std::size_t m, double damping, bool pinned, Vector& by) const {
    Matrix l;
    if (!factored(m, damping, pinned, l)) return false;
    by = right_;
    if (pinned) by[1] = 0;
    substitute(l, m, by);
    return true;
  }

  // From the noise that is left. Rounded grey levels tell nothing of their own error where there is
  // hardly any noise to dither them, and rows that are alike are all wrong alike: what one row's
  // rounding does to the place does not average out.
  void state_errors(StepFit& f) {
    const std::size_t m = parameters(f);
    f.misfit = weigh(f, true);
    Matrix l;
    const bool pinned = f.blur <= least_blur_;
    const std::size_t own = m - (pinned ? 1 : 0);
    if (total_ <= own || !factored(m, 0, pinned, l)) {
      f.good = false;
      return;
    }
    const double variance = std::max(0.0, f.misfit) / static_cast<double>(total_ - own);
    f.noise = std::sqrt(variance);
    const double rounding = rule_.rounding * rule_.rounding / 12;
    const double dithered =
        std::exp(-4 * half_circle * half_circle * std::max(0.0, variance - rounding));
    const double spread = std::sqrt(f.blur * f.blur + box_ * box_ / 12);
    f.u.clear();
    f.u_slant.clear();
    f.shared.clear();
    for (std::size_t k = 0; k < f.steps.size(); ++k) {
      const std::size_t at = 2 + per_step() * k + 1;
      const double height = f.steps[k].height;
      const double floor =
          rounding * dithered * 2.6 * spread * std::sqrt(half_circle) / (height * height);
      f.u.push_back(std::sqrt(variance * inverse_at(l, m, at, at) + floor));
      f.shared.push_back(k + 1 < f.steps.size() ? variance * inverse_at(l, m, at + per_step(), at)
                                                : 0);
      f.u_slant.push_back(tilt_ ? std::sqrt(variance * inverse_at(l, m, at + 1, at + 1)) : 0);
    }
  }

  static double inverse_at(const Matrix& l, std::size_t m, std::size_t row, std::size_t at) {
    Vector unit;
    unit.fill(0);
    unit[at] = 1;
    substitute(l, m, unit);
    return unit[row];
  }

  StepRule rule_;
  bool tilt_;
  double box_ = 1, rest_ = 0, least_blur_ = 0.02, pitch_ = 0.25, width_ = 1, within_ = 0;
  std::size_t total_ = 0;
  Sum before_, behind_;
  std::vector<double> d_, w_, g_, n_, weighted_, lever_, turned_, spread_, u_, model_, share_,
      by_place_, by_blur_;
  std::vector<std::vector<double>> rows_;
  Matrix left_;
  Vector right_;
};

}  // namespace bm
