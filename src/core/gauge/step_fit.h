// Least squares of one or several steps, blurred alike, on the raw pixels near them (Levenberg
// 1944, Marquardt 1963). With noise that differs from pixel to pixel no estimate of a place can be
// better: it reaches the bound of Cramér and Rao.
#pragma once
#include <algorithm>
#include <array>
#include <cmath>
#include <cstddef>
#include <vector>

#include "step_data.h"
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
    if (data_.total < parameters(start) + 1) return f;
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
      for (std::size_t i = 0; i < data_.size(); ++i) u_[i] = data_.place[i] - s.place;
      step_seen(u_.data(), data_.size(), box_, f.blur, share_.data(), by_place_.data(),
                by_blur_.data());
      lever = spread = 0;
      for (std::size_t i = 0; i < data_.size(); ++i) {
        const double change = -s.height * by_place_[i];
        lever += change * (data_.lever[i] - model_[i] * data_.turned[i]);
        spread += change * change * data_.spread[i];
      }
      if (spread > 0 && lever * lever > 9 * spread * f.noise * f.noise) return true;
    }
    return false;
  }

  std::size_t per_step() const { return tilt_ ? 3 : 2; }
  std::size_t parameters(const StepFit& f) const { return 2 + per_step() * f.steps.size(); }

  void take(const NearPixels& pixels, const StepFit& start, double width, bool together) {
    const double reach = 5 * start.blur + 1.5 + (tilt_ ? 0.3 * width : 0);
    data_.take(pixels, start.steps.front().place - reach, start.steps.back().place + reach,
               together ? pitch_ : 0);
    const std::size_t n = data_.size();
    share_.resize(n);
    by_place_.resize(n);
    by_blur_.resize(n);
    u_.resize(n);
    model_.resize(n);
  }

  static constexpr std::size_t most = 2 + 3 * 8;
  using Matrix = std::array<std::array<double, most>, most>;
  using Vector = std::array<double, most>;

  // Sum of squares; with `want` also the normal equations.
  double weigh(const StepFit& f, bool want) {
    const std::size_t n = data_.size(), m = parameters(f);
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
      for (std::size_t i = 0; i < n; ++i)
        u_[i] = (data_.place[i] - s.place - s.slant * data_.across[i]) * turn;
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
          slant[i] =
              -s.height * by_place_[i] * (data_.across[i] * turn + u_[i] * s.slant * turn * turn);
      }
    }
    double misfit =
        data_.within + data_.before.misfit(f.ground) + data_.behind.misfit(f.ground + all);
    for (std::size_t i = 0; i < n; ++i) {
      const double off = data_.grey[i] - model_[i];
      misfit += data_.count[i] * off * off;
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
    for (std::size_t i = 0; i < n; ++i) u_[i] = data_.grey[i] - model_[i];
    for (std::size_t a = 0; a < m; ++a) {
      const double* row = rows_[a].data();
      for (std::size_t i = 0; i < n; ++i) weighted_[i] = data_.count[i] * row[i];
      right_[a] += dot(weighted_.data(), u_.data(), n);
      for (std::size_t b = 0; b <= a; ++b) left_[a][b] += dot(weighted_.data(), rows_[b].data(), n);
    }
    // the ground before all steps tells of its own level, that behind of all heights as well
    left_[0][0] += data_.before.n + data_.behind.n;
    right_[0] += data_.before.sum - data_.before.n * f.ground + data_.behind.sum -
                 data_.behind.n * (f.ground + all);
    for (std::size_t k = 0; k < f.steps.size(); ++k) {
      const std::size_t at = 2 + per_step() * k;
      right_[at] += data_.behind.sum - data_.behind.n * (f.ground + all);
      left_[at][0] += data_.behind.n;
      for (std::size_t j = 0; j <= k; ++j) left_[at][2 + per_step() * j] += data_.behind.n;
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
    if (data_.total <= own || !factored(m, 0, pinned, l)) {
      f.good = false;
      return;
    }
    const double variance = std::max(0.0, f.misfit) / static_cast<double>(data_.total - own);
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
  double box_ = 1, rest_ = 0, least_blur_ = 0.02, pitch_ = 0.25, width_ = 1;
  StepData data_;
  std::vector<double> weighted_, u_, model_, share_, by_place_, by_blur_;
  std::vector<std::vector<double>> rows_;
  Matrix left_;
  Vector right_;
};

}  // namespace bm
