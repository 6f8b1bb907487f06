// Edges along paths: found on the smoothed profile, then placed by a fit on the raw pixels round
// them. Edges nearer to each other than six blurs are fitted together: each moves the other's peak.
#pragma once
#include <algorithm>
#include <cmath>
#include <cstddef>
#include <vector>

#include "find_steps.h"
#include "near_pixels.h"
#include "profile.h"
#include "step_fit.h"

namespace bm {

struct GaugeRule {
  double contrast;  // least step in grey levels; below zero: a third of the path's strongest
  double sigma;     // smoothing of the profile, pixels
  double noise;     // of the picture
  StepRule fit;
};

struct GaugedEdge {
  double place, height, blur, u, slant, u_slant, x, y, dx, dy;
  bool fitted;
  double shared;  // covariance of its place with the next edge's
};

struct GaugedPath {
  std::vector<GaugedEdge> edges;
  double strongest = 0;  // step seen, also where it is no edge
  int weak = 0;          // steps left out for their contrast
  bool seen = false;     // whether any of the path lies in the picture
};

class Gauger {
 public:
  Gauger(const GaugePicture& picture, const GaugeRule& rule)
      : picture_(picture),
        rule_(rule),
        pitch_(std::clamp(rule.sigma / 1.5, 0.34, 1.0)),
        reader_(picture),
        smoother_(rule.sigma, pitch_),
        fitter_(rule.fit) {}

  GaugedPath gauge(const Path& path) {
    GaugedPath out;
    const double length = path.length();
    const std::size_t n =
        path.closed
            ? std::max<std::size_t>(8, static_cast<std::size_t>(std::round(length / pitch_)))
            : static_cast<std::size_t>(length / pitch_ + 1e-9) + 1;
    // samples of a closed path are spread over it
    const double step = path.closed ? length / static_cast<double>(n) : pitch_;
    const double first = path.closed ? 0 : 0.5 * (length - pitch_ * static_cast<double>(n - 1));
    if (!quick_profile(picture_, path, first, step, n, profile_))
      profile_ = reader_.along(path, first, step, n);
    for (const double v : profile_) out.seen = out.seen || !std::isnan(v);
    if (!out.seen) return out;
    smoother_.run(profile_, path.closed, smooth_, slope_);
    const std::size_t shift = path.closed ? quiet_place() : 0;
    std::rotate(smooth_.begin(), smooth_.begin() + static_cast<ptrdiff_t>(shift), smooth_.end());
    std::rotate(slope_.begin(), slope_.begin() + static_cast<ptrdiff_t>(shift), slope_.end());
    const double begin = first + step * static_cast<double>(shift);

    std::vector<Candidate1d> found = candidates(path, step, begin, out.strongest);
    const double least = least_step(out.strongest, path);
    // what is far too weak is not fitted; for the others the fit tells the height
    all_.clear();
    for (const Candidate1d& c : found)
      if (std::fabs(c.slope) > 6 * slope_noise(path)) all_.push_back(c);
    const auto weak = std::remove_if(found.begin(), found.end(), [&](const Candidate1d& c) {
      return std::fabs(c.height) < 0.5 * least;
    });
    out.weak = static_cast<int>(found.end() - weak);
    found.erase(weak, found.end());
    fit_all(path, found, begin, begin + length, least, out);
    std::sort(out.edges.begin(), out.edges.end(),
              [](const GaugedEdge& a, const GaugedEdge& b) { return a.place < b.place; });
    return out;
  }

 private:
  // Steps of the smoothed profile that stand out of the noise, and beside the strongest.
  std::vector<Candidate1d> candidates(const Path& path, double step, double begin,
                                      double& strongest) const {
    const double hush = 3 * slope_noise(path);
    std::vector<Candidate1d> found = StepFinder(smooth_, slope_, step, 1.5 * hush).find();
    for (const Candidate1d& c : found) strongest = std::max(strongest, std::fabs(c.height));
    found.erase(std::remove_if(found.begin(), found.end(),
                               [&](const Candidate1d& c) {
                                 return std::fabs(c.slope) < hush ||
                                        std::fabs(c.height) < 0.02 * strongest;
                               }),
                found.end());
    for (Candidate1d& c : found) c.place += begin;
    return found;
  }

  // Standard deviation that noise gives the smoothed slope.
  double slope_noise(const Path& path) const {
    const double s = std::max(rule_.sigma, 0.5);
    return rule_.noise /
           std::sqrt(std::max(1.0, path.across) * 4 * std::sqrt(half_circle) * s * s * s);
  }

  double least_step(double strongest, const Path& path) const {
    if (rule_.contrast >= 0) return rule_.contrast;
    const double noise = rule_.noise / std::sqrt(std::max(1.0, path.across));
    return std::max({strongest / 3, 5 * noise, 1.0});
  }

  // Sample of a closed profile that is farthest from any edge.
  std::size_t quiet_place() const {
    const std::size_t n = slope_.size();
    double top = 0;
    for (const double s : slope_) top = std::max(top, std::isnan(s) ? 0 : std::fabs(s));
    std::size_t best = 0, longest = 0, run = 0;
    for (std::size_t i = 0; i < 2 * n; ++i) {
      const double s = slope_[i % n];
      run = !std::isnan(s) && std::fabs(s) < 0.2 * top ? run + 1 : 0;
      if (run > longest && run <= n) {
        longest = run;
        best = i - run / 2;
      }
    }
    return best % n;
  }

  // Edges whose blurs touch go together.
  void fit_all(const Path& path, const std::vector<Candidate1d>& found, double begin, double end,
               double least, GaugedPath& out) {
    std::size_t i = 0;
    while (i < found.size()) {
      std::size_t j = i + 1;
      while (j < found.size() && j - i < 8 &&
             found[j].place - found[j - 1].place <
                 6 * std::max(seen_blur(found[j]), seen_blur(found[j - 1])))
        ++j;
      // a stretch of its own: no step beside it, whether it is an edge or not, reaches into it
      double low = begin, high = end;
      for (const Candidate1d& c : all_) {
        if (c.place < found[i].place) low = std::max(low, 0.5 * (c.place + found[i].place));
        if (c.place > found[j - 1].place)
          high = std::min(high, 0.5 * (c.place + found[j - 1].place));
      }
      fit_group(path, found.data() + i, j - i, low, high, least, out);
      i = j;
    }
  }

  // Spread of the edge as the smoothed profile shows it.
  static double seen_blur(const Candidate1d& c) {
    return std::fabs(c.height / c.slope) / std::sqrt(2 * half_circle);
  }

  StepFit start_of(const Candidate1d* c, std::size_t n, double share) const {
    StepFit start;
    double blur = 1e9;
    for (std::size_t k = 0; k < n; ++k) {
      start.steps.push_back({c[k].place, c[k].height, 0});
      blur = std::min(blur, seen_blur(c[k]));
    }
    start.blur =
        std::max(0.35, share * std::sqrt(std::max(0.1, blur * blur - rule_.sigma * rule_.sigma)));
    return start;
  }

  void fit_group(const Path& path, const Candidate1d* c, std::size_t n, double low, double high,
                 double least, GaugedPath& out) {
    StepFit start = start_of(c, n, 1);
    const double reach = std::max(10.0, 24 * start.blur);
    low = std::max(low, c[0].place - reach);
    high = std::min(high, c[n - 1].place + reach);
    near_pixels(picture_, path, low, high, pixels_);
    start.ground = ground_before(c[0], low);
    const PathPlace middle = path.at(0.5 * (c[0].place + c[n - 1].place));
    StepFit fit = fitted(start, middle, path.across);
    if (n > 1 || !fit.good) {  // thin strips: their peaks lie too far apart, and too low
      StepFit other = start_of(c, n, 0.5);
      other.ground = start.ground;
      other = fitted(other, middle, path.across);
      if (other.good && (!fit.good || other.misfit < fit.misfit)) fit = other;
    }
    if (n > 1 && fit.good) fit = without_noise(fit, middle, path.across);
    if (!fit.good || !is_near(fit, c, n, start.blur) || !is_resolved(fit)) {
      for (std::size_t k = 0; k < n; ++k) add(path, by_peak(path, c[k]), least, out);
      return;
    }
    for (std::size_t k = 0; k < fit.steps.size(); ++k)
      add(path,
          {fit.steps[k].place, fit.steps[k].height, fitter_.own_blur(fit.blur), fit.u[k],
           fit.steps[k].slant, fit.u_slant[k], 0, 0, 0, 0, true, fit.shared[k]},
          least, out);
  }

  StepFit fitted(const StepFit& start, const PathPlace& at, double width) {
    return fitter_.fit(pixels_, start, at.dx, at.dy, picture_.aspect, width);
  }

  static bool is_near(const StepFit& fit, const Candidate1d* c, std::size_t n, double blur) {
    const double most = 3 + 2 * std::max({seen_blur(c[0]), seen_blur(c[n - 1]), blur});
    return std::fabs(fit.steps.front().place - c[0].place) < most &&
           std::fabs(fit.steps.back().place - c[n - 1].place) < most;
  }

  // Of a strip too thin for its blur width and contrast cannot be told from each other.
  static bool is_resolved(const StepFit& fit) {
    for (std::size_t k = 0; k + 1 < fit.steps.size(); ++k) {
      const double apart = fit.steps[k + 1].place - fit.steps[k].place;
      const double square = fit.u[k] * fit.u[k] + fit.u[k + 1] * fit.u[k + 1] - 2 * fit.shared[k];
      if (square > 0.0625 * apart * apart) return false;
    }
    return true;
  }

  // Noise can part one blurred step into two, or lay a small one against it between them: they are
  // one where one explains the pixels as well.
  StepFit without_noise(StepFit fit, const PathPlace& at, double width) {
    for (std::size_t many = 2; many <= 3; ++many) {
      for (std::size_t k = 0; k + many <= fit.steps.size();) {
        const Step &first = fit.steps[k], &last = fit.steps[k + many - 1];
        const StepFit one =
            first.height * last.height > 0 ? joined(fit, k, many, at, width) : StepFit();
        if (one.good && one.misfit < fit.misfit + 12 * fit.noise * fit.noise)
          fit = one;
        else
          ++k;
      }
    }
    return fit;
  }

  StepFit joined(const StepFit& fit, std::size_t from, std::size_t many, const PathPlace& at,
                 double width) {
    StepFit start = fit;
    double height = 0, place = 0, weight = 0;
    for (std::size_t k = from; k < from + many; ++k) {
      height += fit.steps[k].height;
      place += std::fabs(fit.steps[k].height) * fit.steps[k].place;
      weight += std::fabs(fit.steps[k].height);
    }
    start.steps.erase(start.steps.begin() + static_cast<ptrdiff_t>(from) + 1,
                      start.steps.begin() + static_cast<ptrdiff_t>(from + many));
    start.steps[from] = {place / weight, height, 0};
    start.blur =
        std::max(fit.blur, 0.4 * (fit.steps[from + many - 1].place - fit.steps[from].place));
    return fitted(start, at, width);
  }

  void add(const Path& path, GaugedEdge e, double least, GaugedPath& out) const {
    // an edge at the very end of a path is seen by half, and placed anywhere
    const double end = 1.5 * std::max(e.blur, 0.5) + 0.5;
    const bool cut = !path.closed && (e.place < end || e.place > path.length() - end);
    if (std::fabs(e.height) < least || cut) {
      ++out.weak;
      return;
    }
    const PathPlace p = path.at(e.place);
    e.x = p.x;
    e.y = p.y;
    e.dx = p.dx;
    e.dy = p.dy;
    if (path.closed) e.place -= path.length() * std::floor(e.place / path.length());
    out.edges.push_back(e);
  }

  // The peak of the slope: at best a fifth less sure than a fit.
  GaugedEdge by_peak(const Path& path, const Candidate1d& c) const {
    GaugedEdge e;
    const double spread = seen_blur(c), width = std::max(1.0, path.across);
    e.place = c.place;
    e.height = c.height;
    e.blur = std::sqrt(std::max(0.0, spread * spread - rule_.sigma * rule_.sigma - 1.0 / 12));
    const double noise = std::max(rule_.noise, rule_.fit.rounding * 0.29);
    e.u =
        1.4 * noise / std::fabs(c.height) * std::sqrt(2 * spread * std::sqrt(half_circle) / width);
    e.slant = e.u_slant = e.shared = 0;
    e.fitted = false;
    return e;
  }

  double ground_before(const Candidate1d& c, double low) const {
    double sum = 0;
    std::size_t n = 0;
    const double edge = c.place - std::max(1.0, 0.5 * (c.place - low));
    for (std::size_t i = 0; i < pixels_.size(); ++i) {
      if (pixels_.along[i] > edge) continue;
      sum += pixels_.grey[i];
      ++n;
    }
    if (n > 0) return sum / static_cast<double>(n);
    return pixels_.size() > 0 ? pixels_.grey[0] : 0;
  }

  GaugePicture picture_;
  GaugeRule rule_;
  double pitch_;  // of the profile's samples: fine enough for its smoothing
  ProfileReader reader_;
  Smoother smoother_;
  StepFitter fitter_;
  NearPixels pixels_;
  std::vector<double> profile_, smooth_, slope_;
  std::vector<Candidate1d> all_;
};

}  // namespace bm
