// Corners of sub-pixel outlines. Pixels round them off by about a pixel, which costs a square a few
// hundredths of its outline. Where two straight sides meet, the grey round their meeting point
// tells how much of the corner there really is, and with it the radius of its rounding: none for a
// sharp one. Rounder corners than `widest` the outline shows by itself.
#pragma once
#include <algorithm>
#include <cmath>
#include <cstddef>
#include <vector>

#include "../measures/hull.h"
#include "../common/plane.h"

namespace bm {

// A straight side of a ring, in its direction of travel; the object lies on the right hand (y grows
// downward).
struct Side {
  Point at{0, 0};
  double dx = 0, dy = 0, misfit = 0;
  double right(const Point& p) const { return dx * (p.y - at.y) - dy * (p.x - at.x); }
};

// The straight line with the least squared distances from points first .. last of at(i).
template <class At>
Side fitted_side(At at, std::size_t first, std::size_t last) {
  Side side;
  const double n = static_cast<double>(last - first + 1);
  for (std::size_t i = first; i <= last; ++i) {
    side.at.x += at(i).x / n;
    side.at.y += at(i).y / n;
  }
  double xx = 0, xy = 0, yy = 0;
  for (std::size_t i = first; i <= last; ++i) {
    const double x = at(i).x - side.at.x, y = at(i).y - side.at.y;
    xx += x * x;
    xy += x * y;
    yy += y * y;
  }
  const double angle = std::atan2(2 * xy, xx - yy) / 2, c = std::cos(angle), s = std::sin(angle);
  const bool forward = c * (at(last).x - at(first).x) + s * (at(last).y - at(first).y) > 0;
  side.dx = forward ? c : -c;
  side.dy = forward ? s : -s;
  side.misfit = std::sqrt(std::max(0.0, xx * s * s - 2 * xy * c * s + yy * c * c) / n);
  return side;
}

// Share of pixel (x, y) that lies on the right hand of both sides.
inline double share_between(double x, double y, const Side& a, const Side& b) {
  Point part[8] = {{x, y}, {x + 1, y}, {x + 1, y + 1}, {x, y + 1}}, cut[8];
  int n = 4;
  for (const Side* side : {&a, &b}) {
    int kept = 0;
    for (int i = 0; i < n; ++i) {
      const Point &p = part[i], &q = part[(i + 1) % n];
      const double u = side->right(p), v = side->right(q);
      if (u >= 0) cut[kept++] = p;
      if ((u > 0 && v < 0) || (u < 0 && v > 0))
        cut[kept++] = {p.x + (q.x - p.x) * u / (u - v), p.y + (q.y - p.y) * u / (u - v)};
    }
    n = kept;
    std::copy(cut, cut + kept, part);
  }
  double twice = 0;
  for (int i = 0; i < n; ++i)
    twice += part[i].x * part[(i + 1) % n].y - part[(i + 1) % n].x * part[i].y;
  return twice / 2;
}

class Corners {
 public:
  // Puts the corners of one ring of object `label` right; all is seen from the same pixel.
  void sharpen(std::vector<Point>& ring, int label, const Seen<int>& labels,
               const Seen<double>& grey) {
    labels_ = &labels;
    grey_ = &grey;
    ring_ = &ring;
    n_ = ring.size();
    label_ = label;
    // three times round, so that no window needs wrapping
    run_.resize(3 * n_ + 1);
    run_[0] = 0;
    for (std::size_t i = 0; i < 3 * n_; ++i)
      run_[i + 1] = run_[i] + length_of(at(i + 1).x - at(i).x, at(i + 1).y - at(i).y);
    found_.clear();
    if (run_[n_] > farthest) find();  // no side reaches round the ring
    if (!found_.empty()) rebuild(ring);
  }

 private:
  // In pixels. The rounding by pixels reaches `near` along the ring from a corner; sides are fitted
  // from there to `farthest`.
  static constexpr double near = 2.1, farthest = 9, straight = 0.04, widest = 2;
  static constexpr double flattest = 0.6, sharpest = 2.4;  // turns at a corner, in radians

  struct Found {
    std::size_t before, after;  // the points between these two give way to `points`
    std::vector<Point> points;
  };

  const Point& at(std::size_t i) const { return (*ring_)[i % n_]; }

  // Candidates stand highest above the chord of their surroundings.
  void find() {
    height_.resize(n_);
    std::size_t before = 0, after = n_;
    for (std::size_t k = 0; k < n_; ++k) {
      const std::size_t i = n_ + k;
      while (run_[i] - run_[before] > 2) ++before;
      while (run_[after] - run_[i] < 2) ++after;
      const double dx = at(after).x - at(before).x, dy = at(after).y - at(before).y;
      height_[k] =
          std::fabs(cross(at(before), at(after), at(i))) / std::max(1e-9, length_of(dx, dy));
    }
    for (std::size_t i = n_; i < 2 * n_; ++i) {
      if (height_[i - n_] < 0.3 || !highest(i)) continue;
      Found f;
      if (!corner(i, f)) continue;
      if (!found_.empty() &&
          (f.before < found_.back().after || f.after > found_.front().before + n_))
        continue;
      found_.push_back(f);
    }
  }

  bool highest(std::size_t i) const {
    const double here = height_[i % n_];
    for (std::size_t j = i - 1; run_[i] - run_[j] < 2; --j)
      if (height_[j % n_] > here) return false;
    for (std::size_t j = i + 1; run_[j] - run_[i] < 2; ++j)
      if (height_[j % n_] >= here) return false;
    return true;
  }

  // The longest straight side that begins at point `first` and leads away from point i, back (-1)
  // or on (1).
  bool side_from(std::size_t first, std::size_t i, int way, Side& side) const {
    auto ring_at = [&](std::size_t k) -> const Point& { return at(k); };
    bool any = false;
    std::size_t last = first;
    for (const double reach : {4.0, 6.0, farthest}) {
      if (way > 0)
        while (run_[last + 1] - run_[i] < reach) ++last;
      else
        while (last > 0 && run_[i] - run_[last - 1] < reach) --last;
      if ((way > 0 ? last - first : first - last) < 2) continue;
      const Side longer =
          way > 0 ? fitted_side(ring_at, first, last) : fitted_side(ring_at, last, first);
      if (longer.misfit > straight) break;
      side = longer;
      any = true;
    }
    return any;
  }

  bool corner(std::size_t i, Found& f) const {
    f.before = f.after = i;
    while (run_[i] - run_[f.before] < near) --f.before;
    while (run_[f.after] - run_[i] < near) ++f.after;
    Side a, b;
    if (!side_from(f.before, i, -1, a) || !side_from(f.after, i, 1, b)) return false;
    const double turn = std::atan2(a.dx * b.dy - a.dy * b.dx, a.dx * b.dx + a.dy * b.dy),
                 bend = std::fabs(turn);
    if (bend < flattest || bend > sharpest) return false;
    const double along = ((b.at.x - a.at.x) * b.dy - (b.at.y - a.at.y) * b.dx) / std::sin(turn);
    a.at = {a.at.x + along * a.dx, a.at.y + along * a.dy};
    b.at = a.at;  // the meeting point
    const Point &from = at(f.before), &to = at(f.after);
    const double room = std::min((a.at.x - from.x) * a.dx + (a.at.y - from.y) * a.dy,
                                 (to.x - a.at.x) * b.dx + (to.y - a.at.y) * b.dy);
    double missing;
    if (room <= 0 || length_of(a.at.x - at(i).x, a.at.y - at(i).y) > 2 ||
        !missing_area(a, b, turn > 0, missing))
      return false;
    // between an arc that touches both sides and their meeting point lies r^2 (tan(bend / 2) - bend
    // / 2)
    const double radius = std::sqrt(std::max(0.0, missing) / (std::tan(bend / 2) - bend / 2));
    if (!(radius <= widest)) return false;
    f.points = arc(a, turn, std::min(radius, room / std::tan(bend / 2)));
    return true;
  }

  // The meeting point itself, or an arc of that radius from the end of side `a`.
  static std::vector<Point> arc(const Side& a, double turn, double radius) {
    const int steps = static_cast<int>(std::ceil(2 * radius * std::fabs(turn)));
    if (steps < 2) return {a.at};
    const double back = radius * std::tan(std::fabs(turn) / 2),
                 toward = turn > 0 ? radius : -radius;
    const Point start{a.at.x - back * a.dx, a.at.y - back * a.dy};
    const Point centre{start.x - toward * a.dy, start.y + toward * a.dx};
    std::vector<Point> points;
    for (int k = 0; k <= steps; ++k) {
      const double c = std::cos(turn * k / steps), s = std::sin(turn * k / steps),
                   x = start.x - centre.x, y = start.y - centre.y;
      points.push_back({centre.x + c * x - s * y, centre.y + s * x + c * y});
    }
    return points;
  }

  // Area between the sides near their meeting point that the grey says is none of the object's
  // (beyond them and still the object's where the ring turns left). A ring farther in or out by a
  // level off the middle is no corner's doing: what is missing farther along the sides is taken
  // off. False where anything else lies in the way.
  bool missing_area(Side a, Side b, bool convex, double& missing) const {
    constexpr double near_by = 2.2, far_off = 4.2;
    if (!convex) {  // the ground is what lies between the sides
      for (Side* side : {&a, &b}) {
        side->dx = -side->dx;
        side->dy = -side->dy;
      }
    }
    const double left = static_cast<double>(grey_->left), top = static_cast<double>(grey_->top),
                 right = static_cast<double>(grey_->right),
                 bottom = static_cast<double>(grey_->bottom);
    if (a.at.x < left + near_by || a.at.y < top + near_by || a.at.x > right - near_by ||
        a.at.y > bottom - near_by)
      return false;
    // sums of shares and greys of the pixels near by and farther off, and the two levels far from
    // the edge
    double share[2] = {0, 0}, grey[2] = {0, 0}, pixels[2] = {0, 0}, level[2] = {0, 0},
           of_level[2] = {0, 0};
    auto begin = [&](double v, double least) {
      return static_cast<ptrdiff_t>(std::floor(std::max(least, v - far_off)));
    };
    auto end = [&](double v, double most) {
      return static_cast<ptrdiff_t>(std::floor(std::min(most, v + far_off + 1)));
    };
    for (ptrdiff_t x = begin(a.at.x, left); x < end(a.at.x, right); ++x) {
      for (ptrdiff_t y = begin(a.at.y, top); y < end(a.at.y, bottom); ++y) {
        const Point middle{static_cast<double>(x) + 0.5, static_cast<double>(y) + 0.5};
        const double off = length_of(middle.x - a.at.x, middle.y - a.at.y);
        if (off > far_off) continue;
        const double g = grey_->at(x, y), depth = std::min(a.right(middle), b.right(middle));
        const int label = labels_->at(x, y);
        if (label != 0 && label != label_) return false;
        if (std::fabs(depth) > 0.8) {
          const int within = depth > 0;
          if ((label == label_) != (convex == (within == 1))) return false;
          level[within] += g;
          of_level[within] += 1;
        }
        const int where = off >= near_by;
        share[where] += share_between(static_cast<double>(x), static_cast<double>(y), a, b);
        grey[where] += g;
        pixels[where] += 1;
      }
    }
    if (of_level[0] < 1 || of_level[1] < 1) return false;
    const double ground = level[0] / of_level[0], step = level[1] / of_level[1] - ground;
    auto off = [&](int where) {
      return share[where] - (grey[where] - pixels[where] * ground) / step;
    };
    missing = off(0) - off(1) * near_by / (far_off - near_by);
    return true;
  }

  void rebuild(std::vector<Point>& ring) const {
    std::vector<Point> out;
    for (std::size_t k = 0; k < found_.size(); ++k) {
      const std::size_t end = k + 1 < found_.size() ? found_[k + 1].before : found_[0].before + n_;
      out.insert(out.end(), found_[k].points.begin(), found_[k].points.end());
      for (std::size_t i = found_[k].after; i <= end; ++i) out.push_back(at(i));
    }
    ring = out;
  }

  const Seen<int>* labels_ = nullptr;
  const Seen<double>* grey_ = nullptr;
  const std::vector<Point>* ring_ = nullptr;
  std::size_t n_ = 0;
  int label_ = 0;
  std::vector<double> run_,
      height_;  // way along the ring to each point; its height above the chord
  std::vector<Found> found_;
};

}  // namespace bm
