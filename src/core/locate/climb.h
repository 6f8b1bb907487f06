// How like the picture is to the pattern at a pose, on one level of the pyramid, and the climb to
// the best pose nearby.
#pragma once
#include <algorithm>
#include <array>
#include <cmath>
#include <vector>

#include "pattern.h"
#include "slope.h"

namespace bm {

// Least likeness after the first step beside that wanted in the end.
constexpr double first_share = 0.8;

// A point of the pattern in a turn and scale, from the reference, in pixels of the level.
struct Placed {
  float x, y, nx, ny;
};

// Where a block of `around_lanes` rows begins, from `reach` columns and rows before a point; none
// for points near the frame.
constexpr ptrdiff_t around_lanes = 8, none_there = -1;

// Sums over the pattern's points, in one column of places: each point meets `around_lanes` rows.
BM_CLONES inline void add_column_around(const Placed* points, const ptrdiff_t* from, size_t n,
                                        const std::int8_t* x, const std::int8_t* y,
                                        float* __restrict sums) {
  std::array<float, around_lanes> sum{};
  for (size_t k = 0; k < n; ++k) {
    if (from[k] == none_there) continue;
    const std::int8_t *a = x + from[k], *b = y + from[k];
    const float nx = points[k].nx, ny = points[k].ny;
    BM_UNROLL
    for (size_t j = 0; j < around_lanes; ++j)
      sum[j] += static_cast<float>(a[j]) * nx + static_cast<float>(b[j]) * ny;
  }
  for (size_t j = 0; j < around_lanes; ++j) sums[j] = sum[j];
}

// Places beside a pose whose likeness is asked for at once, in pixels of the level.
constexpr size_t beside_lanes = 8;
struct Places {
  std::array<float, beside_lanes> x, y;
};

// Sums over the pattern's points at such places. Beyond the frame a point meets the first pixel,
// which has no slope.
BM_CLONES inline void add_places(const Placed* points, size_t n, const Places& at, size_t cols,
                                 size_t rows, const std::int8_t* x, const std::int8_t* y,
                                 float* __restrict sums) {
  const float wide = static_cast<float>(cols), high = static_cast<float>(rows);
  std::array<float, beside_lanes> sum{};
  for (size_t k = 0; k < n; ++k) {
    const Placed p = points[k];
    std::array<std::int32_t, beside_lanes> col, row;
    BM_UNROLL
    for (size_t j = 0; j < beside_lanes; ++j) {
      const float u = at.x[j] + p.x, v = at.y[j] + p.y;
      const std::int32_t inside = -((u >= 0) & (v >= 0) & (u < wide) & (v < high));
      col[j] = static_cast<std::int32_t>(u) & inside;
      row[j] = static_cast<std::int32_t>(v) & inside;
    }
    BM_UNROLL
    for (size_t j = 0; j < beside_lanes; ++j) {
      const size_t pixel = static_cast<size_t>(col[j]) * rows + static_cast<size_t>(row[j]);
      sum[j] += static_cast<float>(x[pixel]) * p.nx + static_cast<float>(y[pixel]) * p.ny;
    }
  }
  for (size_t j = 0; j < beside_lanes; ++j) sums[j] = sum[j];
}

// A level with its pattern.
class LevelView {
 public:
  LevelView(const Directions& level, const PatternLevel& taught, double aspect)
      : level_(level), taught_(taught), aspect_(aspect), shrink_(std::ldexp(1.0, -taught.level)) {
    double reach = 1;
    for (const TaughtPoint& p : taught.points)
      reach = std::max(reach, std::sqrt(p.x * p.x + p.y * p.y));
    pixel_ = 1 / shrink_;
    turn_ = pixel_ / reach;
  }

  double pixel() const { return pixel_; }     // of the level, in the picture's
  double turn_step() const { return turn_; }  // moves the farthest point by such a pixel

  // To the best place within two pixels, then to the best neighbour in place, turn and scale while
  // there is a better one, first by pixels, then by halves. Where the first step stays far below
  // the likeness wanted, no others are taken.
  Candidate climb(const Candidate& from, const PoseRange& range, bool either, double wanted) const {
    Climb now{from.pose, placed(from.pose), 0};
    step_by_pixels(now, most_reach, either);
    if (now.likeness < first_share * wanted) return {now.pose, now.likeness};
    slide(now, either);
    for (const double step : {1.0, 0.5}) {
      for (int moves = 0; moves < 6; ++moves) {
        const double before = now.likeness;
        if (step == 1)
          step_by_pixels(now, 1, either);
        else
          step_by_halves(now, either);
        if (range.turns()) {
          if (!try_pose(now, step * turn_, 1, either)) try_pose(now, -step * turn_, 1, either);
        }
        if (range.scales()) {
          if (!try_pose(now, 0, 1 + step * turn_, either))
            try_pose(now, 0, 1 / (1 + step * turn_), either);
        }
        if (now.likeness <= before) break;
      }
    }
    return {now.pose, now.likeness};
  }

  // Other places along the direction that the points say least about, where the picture is nearly
  // as like the pattern: where an end of parallel edges is hidden, the right place need not be the
  // most like one. The two best.
  std::vector<Candidate> beside(const Candidate& from, bool either) const {
    const Climb now{from.pose, placed(from.pose), 0};
    const Shift along = weak_direction(now);
    const int reach = static_cast<int>(beside_reach / turn_);
    std::vector<double> like;
    for (int first = -reach; first <= reach; first += static_cast<int>(beside_lanes)) {
      const Likes eight = values(
          now, [&](int j) { return along.times(first + j); }, either);
      like.insert(like.end(), eight.begin(), eight.end());
    }
    std::vector<Candidate> out;
    for (int k = -reach + 1; k < reach; ++k) {
      const double* v = &like[static_cast<size_t>(k + reach)];
      if (std::abs(k) < 2 || v[0] < v[-1] || v[0] < v[1] || v[0] < beside_share * from.likeness)
        continue;
      Pose pose = from.pose;
      pose.x += k * along.x;
      pose.y += k * along.y;
      out.push_back({pose, v[0]});
    }
    std::stable_sort(out.begin(), out.end(), [](const Candidate& a, const Candidate& b) {
      return a.likeness > b.likeness;
    });
    out.resize(std::min<size_t>(out.size(), 2));
    return out;
  }

 private:
  struct Shift {
    double x, y;
    Shift times(int n) const { return {n * x, n * y}; }
  };
  struct Climb {
    Pose pose;
    std::vector<Placed> points;
    double likeness;
  };

  std::vector<Placed> placed(const Pose& pose) const {
    const Placing place({0, 0, pose.turn, pose.scale}, aspect_);
    std::vector<Placed> out;
    out.reserve(taught_.points.size());
    for (const TaughtPoint& p : taught_.points) {
      const Placing::Point at = place(p);
      out.push_back({static_cast<float>(at.x * shrink_), static_cast<float>(at.y * shrink_),
                     static_cast<float>(at.nx), static_cast<float>(at.ny)});
    }
    return out;
  }

  // Mean cosine between taught and found directions; places without a slope count zero.
  double value(const Climb& c, bool either) const {
    const float x = static_cast<float>(c.pose.x * shrink_),
                y = static_cast<float>(c.pose.y * shrink_);
    float sum = 0;
    for (const Placed& p : c.points) sum += cosine(p, x + p.x, y + p.y);
    return mean(sum, c, either);
  }

  // The same at eight places beside it: shift(0) ... shift(7), in the picture's pixels.
  using Likes = std::array<double, beside_lanes>;
  template <class ShiftOf>
  Likes values(const Climb& c, ShiftOf shift, bool either) const {
    Places at;
    for (size_t j = 0; j < beside_lanes; ++j) {
      const Shift by = shift(static_cast<int>(j));
      at.x[j] = static_cast<float>((c.pose.x + by.x) * shrink_);
      at.y[j] = static_cast<float>((c.pose.y + by.y) * shrink_);
    }
    std::array<float, beside_lanes> sums;
    add_places(c.points.data(), c.points.size(), at, level_.cols, level_.rows, level_.x.data(),
               level_.y.data(), sums.data());
    Likes out;
    for (size_t j = 0; j < beside_lanes; ++j) out[j] = mean(sums[j], c, either);
    return out;
  }

  float cosine(const Placed& p, float u, float v) const {
    const float cols = static_cast<float>(level_.cols), rows = static_cast<float>(level_.rows);
    if (!(u >= 0 && v >= 0 && u < cols && v < rows)) return 0;
    const size_t at = static_cast<size_t>(static_cast<std::int32_t>(u)) * level_.rows +
                      static_cast<size_t>(static_cast<std::int32_t>(v));
    return static_cast<float>(level_.x[at]) * p.nx + static_cast<float>(level_.y[at]) * p.ny;
  }

  double mean(float sum, const Climb& c, bool either) const {
    const double mean = static_cast<double>(sum / unit) / static_cast<double>(c.points.size());
    return either ? std::fabs(mean) : mean;
  }

  // To the best place up to `reach` pixels of the level away.
  void step_by_pixels(Climb& now, ptrdiff_t reach, bool either) const {
    const Block sums = sums_around(now, reach);
    const auto like = [&](ptrdiff_t i, ptrdiff_t j) {
      return mean(sums[static_cast<size_t>((i + reach) * around_lanes + j + reach)], now, either);
    };
    now.likeness = like(0, 0);
    double best_x = 0, best_y = 0;
    for (ptrdiff_t i = -reach; i <= reach; ++i) {
      for (ptrdiff_t j = -reach; j <= reach; ++j) {
        const double v = like(i, j);
        if (!(v > now.likeness)) continue;
        now.likeness = v;
        best_x = static_cast<double>(i) * pixel_;
        best_y = static_cast<double>(j) * pixel_;
      }
    }
    now.pose.x += best_x;
    now.pose.y += best_y;
  }

  // Columns of places, `around_lanes` rows each, of which 2 * reach + 1 count.
  static constexpr ptrdiff_t most_reach = 2;
  using Block = std::array<float, (2 * most_reach + 1) * around_lanes>;

  Block sums_around(const Climb& c, ptrdiff_t reach) const {
    const float x = static_cast<float>(c.pose.x * shrink_),
                y = static_cast<float>(c.pose.y * shrink_);
    const ptrdiff_t rows = static_cast<ptrdiff_t>(level_.rows),
                    cols = static_cast<ptrdiff_t>(level_.cols);
    const float least = static_cast<float>(reach), right = static_cast<float>(cols - reach),
                bottom = static_cast<float>(rows - around_lanes + reach);
    std::vector<ptrdiff_t> from(c.points.size());
    for (size_t k = 0; k < from.size(); ++k) {
      const float u = x + c.points[k].x, v = y + c.points[k].y;
      const bool inside = u >= least && v >= least && u < right && v < bottom;
      from[k] = inside ? (static_cast<std::int32_t>(u) - reach) * rows +
                             static_cast<std::int32_t>(v) - reach
                       : none_there;
    }
    Block sums{};
    for (ptrdiff_t i = 0; i <= 2 * reach; ++i)
      add_column_around(c.points.data(), from.data(), from.size(), level_.x.data() + i * rows,
                        level_.y.data() + i * rows, sums.data() + i * around_lanes);
    for (size_t k = 0; k < from.size(); ++k) {
      if (from[k] != none_there) continue;
      for (ptrdiff_t i = -reach; i <= reach; ++i)
        for (ptrdiff_t j = -reach; j <= reach; ++j)
          sums[static_cast<size_t>((i + reach) * around_lanes + j + reach)] +=
              cosine(c.points[k], x + c.points[k].x + static_cast<float>(i),
                     y + c.points[k].y + static_cast<float>(j));
    }
    return sums;
  }

  void step_by_halves(Climb& now, bool either) const {
    constexpr std::array<std::array<int, 2>, beside_lanes> ways{
        {{-1, -1}, {-1, 0}, {-1, 1}, {0, -1}, {0, 1}, {1, -1}, {1, 0}, {1, 1}}};
    take(now, best_beside(
                  now,
                  [&](int j) {
                    const std::array<int, 2>& way = ways[static_cast<size_t>(j)];
                    return Shift{way[0] * pixel_ / 2, way[1] * pixel_ / 2};
                  },
                  either));
  }

  struct Step {
    Shift by;
    double likeness;
  };
  template <class ShiftOf>
  Step best_beside(const Climb& now, ShiftOf shift, bool either) const {
    const Likes like = values(now, shift, either);
    const auto best = std::max_element(like.begin(), like.end());
    return {shift(static_cast<int>(best - like.begin())), *best};
  }
  static void take(Climb& now, const Step& step) {
    if (!(step.likeness > now.likeness)) return;
    now.likeness = step.likeness;
    now.pose.x += step.by.x;
    now.pose.y += step.by.y;
  }

  // Parallel edges look alike wherever the part lies along them, but for what else is seen of it:
  // the best place along the direction that the points found say least about.
  void slide(Climb& now, bool either) const {
    const Shift along = weak_direction(now);
    constexpr int reach = static_cast<int>(beside_lanes);
    const Step back = best_beside(
                   now, [&](int j) { return along.times(j - reach); }, either),
               ahead = best_beside(
                   now, [&](int j) { return along.times(j + 1); }, either);
    take(now, back.likeness >= ahead.likeness ? back : ahead);
  }

  // A pixel of the level along the direction that the points say least about.
  Shift weak_direction(const Climb& now) const {
    double xx = 0, xy = 0, yy = 0;
    for (const Placed& p : now.points) {
      xx += static_cast<double>(p.nx * p.nx);
      xy += static_cast<double>(p.nx * p.ny);
      yy += static_cast<double>(p.ny * p.ny);
    }
    const double angle = 0.5 * std::atan2(2 * xy, xx - yy) + full_turn / 4;
    return {std::cos(angle) * pixel_, std::sin(angle) * pixel_};
  }

  // How far, in parts of the pattern's radius, and how like beside the place itself.
  static constexpr double beside_reach = 0.6, beside_share = 0.85;

  // Whether a pose is better; then it is taken.
  bool try_pose(Climb& now, double turn, double grown, bool either) const {
    Pose pose = now.pose;
    pose.turn += turn;
    pose.scale *= grown;
    Climb there{pose, placed(pose), 0};
    there.likeness = value(there, either);
    if (!(there.likeness > now.likeness)) return false;
    now = std::move(there);
    return true;
  }

  const Directions& level_;
  const PatternLevel& taught_;
  double aspect_, shrink_, pixel_, turn_;
};

// Poses by strips of the picture, to ask whether one lies within `near` pixels and `turn` radians
// of another.
class Poses {
 public:
  Poses(double near, double turn, double cols)
      : near_(near), turn_(turn), most_(cols / near), strips_(static_cast<size_t>(most_) + 3) {}

  void add(const Pose& pose) { strips_[strip_of(pose)].push_back(pose); }

  bool hold_near(const Pose& pose) const {
    const size_t strip = strip_of(pose);
    for (size_t s = strip - 1; s <= strip + 1; ++s) {
      for (const Pose& p : strips_[s])
        if (std::fabs(p.x - pose.x) <= near_ && std::fabs(p.y - pose.y) <= near_ &&
            std::fabs(wrapped(p.turn - pose.turn)) <= turn_)
          return true;
    }
    return false;
  }

 private:
  size_t strip_of(const Pose& pose) const {
    return static_cast<size_t>(std::min(std::max(pose.x / near_, 0.0), most_)) + 1;
  }
  double near_, turn_, most_;
  std::vector<std::vector<Pose>> strips_;
};

// The best of candidates that lie within `near` pixels and `turn` radians of each other, best
// first.
inline std::vector<Candidate> best_apart(std::vector<Candidate> all, double near, double turn,
                                         double cols, size_t most) {
  std::sort(all.begin(), all.end(), [](const Candidate& a, const Candidate& b) {
    if (a.likeness != b.likeness) return a.likeness > b.likeness;
    if (a.pose.x != b.pose.x) return a.pose.x < b.pose.x;
    if (a.pose.y != b.pose.y) return a.pose.y < b.pose.y;
    if (a.pose.turn != b.pose.turn) return a.pose.turn < b.pose.turn;
    return a.pose.scale < b.pose.scale;
  });
  Poses poses(near, turn, cols);
  std::vector<Candidate> kept;
  for (const Candidate& c : all) {
    if (kept.size() >= most) break;
    if (poses.hold_near(c.pose)) continue;
    poses.add(c.pose);
    kept.push_back(c);
  }
  return kept;
}

}  // namespace bm
