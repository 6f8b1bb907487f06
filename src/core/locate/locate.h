// Every instance of a taught pattern in a picture: scanned on the coarsest level, followed down the
// pyramid, settled to a fraction of a pixel, each part of the picture taken by one find only.
#pragma once
#include <algorithm>
#include <cmath>
#include <vector>

#include "../field/noise.h"
#include "climb.h"
#include "scan.h"
#include "settle.h"

namespace bm {

struct LocateRule {
  PoseRange range;
  double score;    // least share of the contour found
  double overlap;  // most of its points that a better find may have taken
  size_t most;     // finds
  bool either;     // bright and dark may be exchanged
};

// How like a candidate must be while it is followed down, beside the score asked for in the end:
// rounding takes from it on the coarse levels, noise on the fine ones.
constexpr double scan_share = 0.75, follow_share = 0.8;

// No more turns of a full circle are tried.
constexpr double most_turns = 4000;

// No smaller picture is searched: nothing settles there.
constexpr size_t least_side = 6;

// What a find with such a score has taken is not looked at again.
constexpr double sure_score = 0.9;

// The pixels of the picture, two by two, that finds have taken.
class Taken {
 public:
  Taken(size_t rows, size_t cols)
      : rows_(rows / 2 + 1), cols_(cols / 2 + 1), taken_(rows_ * cols_, 0) {}

  double share(const std::vector<Placing::Point>& points) const {
    size_t n = 0;
    for (const Placing::Point& p : points) n += taken_[cell(p.x, p.y)];
    return static_cast<double>(n) / static_cast<double>(std::max<size_t>(points.size(), 1));
  }
  void take(const Find& find) {
    for (const Placing::Point& p : find.points) {
      for (int dx = -2; dx <= 2; dx += 2)
        for (int dy = -2; dy <= 2; dy += 2) taken_[cell(p.x + dx, p.y + dy)] = 1;
    }
  }

 private:
  size_t cell(double x, double y) const {
    auto index = [](double v, size_t n) {
      return static_cast<size_t>(std::min(std::max(v / 2, 0.0), static_cast<double>(n - 1)));
    };
    return index(x, cols_) * rows_ + index(y, rows_);
  }
  size_t rows_, cols_;
  std::vector<std::uint8_t> taken_;
};

class Locator {
 public:
  Locator(Plane<const double> picture, const Pattern& pattern, const LocateRule& rule)
      : picture_(picture), pattern_(pattern), rule_(rule), noise_(noise_of(picture)) {
    pyramid_ = pyramid_of(picture, pattern.levels.back().level);
    coarsest_ = pattern.levels.size() - 1;
    while (coarsest_ > 0 && pattern.levels[coarsest_].level > static_cast<int>(pyramid_.size()))
      --coarsest_;
    // the picture itself is looked at pixel by pixel for small parts only
    if (pattern.levels[coarsest_].level == 0) whole_ = as_level(picture);
  }

  template <class Interrupt>
  std::vector<Find> locate(int threads, Interrupt interrupt) const {
    if (std::min(picture_.rows, picture_.cols) < least_side) return {};
    std::vector<Candidate> found = scan(threads, interrupt);

    size_t finest = coarsest_;
    Directions directions = directions_of(level(finest), least_slope(finest));
    found = follow(view(finest, directions), found);
    while (finest > 0 && pattern_.levels[finest - 1].level > 0) {
      interrupt();
      --finest;
      directions = directions_of(level(finest), least_slope(finest));
      found = follow(view(finest, directions), found);
    }
    return settled(view(finest, directions), found, interrupt);
  }

 private:
  const Level& level(size_t k) const {
    const int n = pattern_.levels[k].level;
    return n == 0 ? whole_ : pyramid_[static_cast<size_t>(n) - 1];
  }
  // What counts as a slope there.
  float least_slope(size_t k) const {
    return static_cast<float>(std::max(slope_noise_at(noise_, pattern_.levels[k].level), 1e-3));
  }

  template <class Interrupt>
  std::vector<Candidate> scan(int threads, Interrupt interrupt) const {
    const PatternLevel& taught = pattern_.levels[coarsest_];
    const Level& at = level(coarsest_);
    const Directions none{0, 0, {}, {}};
    const LevelView seen(none, taught, pattern_.aspect);
    const double grow = seen.pixel();
    const double step = std::max(seen.turn_step(), full_turn / most_turns);
    const std::vector<TurnedPattern> patterns =
        turned_patterns(taught, pattern_.aspect, rule_.range, step, at);
    ptrdiff_t reach = 1;
    for (const TurnedPattern& t : patterns)
      for (const TurnedPattern::Entry& e : t.entries)
        reach = std::max({reach, std::abs(e.x), std::abs(e.y)});
    const int points = static_cast<int>(summed_points(taught)), top = 127 / points;
    const Likeness likeness(at, least_slope(coarsest_), top, static_cast<size_t>(reach));
    const double whole = static_cast<double>(top * points);
    const ScanRule rule{static_cast<int>(std::ceil(scan_share * rule_.score * whole)), whole,
                        rule_.either, grow};
    constexpr size_t strip = 32;
    std::vector<std::vector<Candidate>> found((at.cols + strip - 1) / strip);
    over_columns(
        at.cols, threads, strip,
        [&](size_t first, size_t last, auto pause) {
          for (size_t from = first; from < last; from += strip) {
            std::vector<Candidate> all;
            scan_columns(likeness, patterns, at.rows, from, std::min(from + strip, last), rule,
                         all);
            found[from / strip] =
                best_apart(std::move(all), 1.5 * grow, 1.5 * seen.turn_step(),
                           static_cast<double>(picture_.cols), candidates_a_strip(at.rows));
            pause();
          }
        },
        interrupt);
    std::vector<Candidate> all;
    for (const std::vector<Candidate>& f : found) all.insert(all.end(), f.begin(), f.end());
    return best_apart(std::move(all), 1.5 * grow, 1.5 * seen.turn_step(),
                      static_cast<double>(picture_.cols), all.size());
  }

  // More are never looked at: a strip holds no more parts than that.
  static size_t candidates_a_strip(size_t rows) { return 100 + rows; }

  LevelView view(size_t k, const Directions& directions) const {
    return {directions, pattern_.levels[k], pattern_.aspect};
  }

  std::vector<Candidate> follow(const LevelView& seen, const std::vector<Candidate>& from) const {
    const double wanted = follow_share * rule_.score;
    std::vector<Candidate> out;
    // A start beside the end of a climb leads to the same end, unless it differs in size.
    const bool spared = !rule_.range.scales();
    Poses ends(1.5 * seen.pixel(), 1.5 * seen.turn_step(), static_cast<double>(picture_.cols));
    for (const Candidate& c : from) {
      if (spared && ends.hold_near(c.pose)) continue;
      const Candidate best = seen.climb(c, rule_.range, rule_.either, wanted);
      if (best.likeness < wanted) continue;
      ends.add(best.pose);
      out.push_back(best);
    }
    return best_apart(std::move(out), 1.5 * seen.pixel(), 1.5 * seen.turn_step(),
                      static_cast<double>(picture_.cols), from.size());
  }

  template <class Interrupt>
  std::vector<Find> settled(const LevelView& seen, const std::vector<Candidate>& from,
                            Interrupt interrupt) const {
    const Settler settler(picture_, pattern_, noise_, rule_.range, rule_.either);
    std::vector<Find> finds;
    Taken sure(picture_.rows, picture_.cols);  // by finds that hardly any other can surpass
    // whether so much of the part is hidden that it may lie elsewhere
    const auto is_partial = [&](const Candidate& c) {
      interrupt();
      if (sure.share(points_at(c.pose)) > rule_.overlap) return false;
      Find find = settler.settle(c.pose, rule_.score);
      const bool good = find.score >= rule_.score && is_within_range(find);
      const bool whole = good && find.score >= sure_score;
      if (whole) sure.take(find);
      if (good) finds.push_back(std::move(find));
      return !whole && c.likeness >= rule_.score;
    };
    std::vector<Candidate> elsewhere;
    for (const Candidate& c : from) {
      if (!is_partial(c)) continue;
      for (const Candidate& other : seen.beside(c, rule_.either))
        if (other.likeness >= rule_.score) elsewhere.push_back(other);
    }
    elsewhere = best_apart(std::move(elsewhere), 1.5 * seen.pixel(), 1.5 * seen.turn_step(),
                           static_cast<double>(picture_.cols), elsewhere.size());
    for (const Candidate& c : elsewhere) is_partial(c);
    std::stable_sort(finds.begin(), finds.end(),
                     [](const Find& a, const Find& b) { return a.score > b.score; });
    Taken taken(picture_.rows, picture_.cols);
    std::vector<Find> out;
    for (Find& f : finds) {
      if (out.size() >= rule_.most) break;
      if (taken.share(f.points) > rule_.overlap) continue;
      taken.take(f);
      out.push_back(std::move(f));
    }
    return out;
  }

  std::vector<Placing::Point> points_at(const Pose& pose) const {
    const Placing place(pose, pattern_.aspect);
    std::vector<Placing::Point> out;
    for (const TaughtPoint& p : pattern_.levels.front().points) out.push_back(place(p));
    return out;
  }

  // To within what a fit may be off; the reference lies in the picture.
  bool is_within_range(const Find& f) const {
    const PoseRange& r = rule_.range;
    const double middle = (r.low + r.high) / 2, half = (r.high - r.low) / 2;
    const bool turned = !r.turns() || std::fabs(wrapped(f.pose.turn - middle)) <=
                                          half + std::max(0.005, 3 * std::sqrt(f.covariance[10]));
    const double loose = 1 + std::max(0.002, 3 * std::sqrt(f.covariance[15]));
    const bool sized =
        !r.scales() || (f.pose.scale >= r.small / loose && f.pose.scale <= r.large * loose);
    return turned && sized && f.pose.x >= 0 && f.pose.y >= 0 &&
           f.pose.x <= static_cast<double>(picture_.cols) &&
           f.pose.y <= static_cast<double>(picture_.rows);
  }

  Plane<const double> picture_;
  const Pattern& pattern_;
  LocateRule rule_;
  double noise_;
  size_t coarsest_;
  std::vector<Level> pyramid_;
  Level whole_{0, 0, Scratch<float>(0)};
};

}  // namespace bm
