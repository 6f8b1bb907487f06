// One component flooded from the greatest height down; two basins that meet stay apart when the
// lower of their peaks rises at least `depth` and `share` of its height above the pass, and are one
// otherwise (peaks by dynamics: Grimaud 1992; flooding in order of height: Vincent & Soille 1991).
// Where basins meet, a pixel goes the way the height rises: its share in each is that of the two
// neighbours uphill (direction split as by Tarboton 1997), so that necks are cut straight. With
// seeds, basins stay apart when both hold one.
#pragma once
#include <algorithm>
#include <array>
#include <cmath>
#include <cstdint>
#include <cstring>
#include <utility>
#include <vector>

#include "../objects/label.h"
#include "basins.h"
#include "pixel_order.h"
#include "../common/speed.h"

namespace bm {

// The topmost, there leftmost pixel of a basin.
typedef std::pair<std::int32_t, std::int32_t> Place;

// What is flooded: heights, or their squares (of distances), above 0 on objects and 0 on the
// ground; and the seeds, 0 where there is none, or no plane at all.
struct Ground {
  Plane<const float> height;
  bool squared;
  double aspect;  // height of a pixel over its width
  double depth, share;
  Plane<const int> seeds;
};

// Floods one component after the other in a room of its own: a box with a free pixel all round, so
// that neither the frame nor neighbours need a test, and small, so that it stays in the cache. The
// room is clear between components.
class Flood {
 public:
  explicit Flood(const Ground& ground)
      : ground_(ground),
        height_(ground.height),
        depth_(static_cast<float>(ground.depth)),
        share_(static_cast<float>(ground.share)) {}

  // Writes the numbers 1 .. n of the component's basins into `labels`; returns their places.
  const std::vector<Place>& run(const Run* first, const Run* last, Plane<int> labels) {
    lay_out(first, last);
    basins_.clear();
    shared_.clear();
    if (ground_.seeds.data) sow(first, last);
    sort_by_height(pixels_, other_);
    for (std::size_t from = 0, to = 0; from < pixels_.size(); from = to) {
      while (to < pixels_.size() && pixels_[to].low == pixels_[from].low) ++to;
      flood_level(from, to);
    }
    return hand_over(first, last, labels);
  }

 private:
  // Heights of the pixels as whole numbers that sort as they do: positive floats sort as their
  // bits.
  void lay_out(const Run* first, const Run* last) {
    std::int32_t top = INT32_MAX, bottom = 0;
    for (const Run* r = first; r != last; ++r) {
      top = std::min(top, r->top);
      bottom = std::max(bottom, r->end);
    }
    left_ = first->col;
    top_ = top;
    stride_ = static_cast<std::size_t>(bottom - top + 2) | 1;
    const std::size_t need = stride_ * static_cast<std::size_t>((last - 1)->col - left_ + 3);
    if (room_.size() < need) room_.resize(need, 0);
    std::int32_t highest = 0;
    bool whole = true;
    std::size_t n = 0;
    for (const Run* r = first; r != last; ++r) {
      if (last - r > 4) fetch(r[4], height_);
      const std::size_t length = static_cast<std::size_t>(r->end - r->top);
      look_through(height_.col(static_cast<std::size_t>(r->col)) + r->top, length, highest, whole);
      n += length;
    }
    whole_ = whole;
    float top_height;
    std::memcpy(&top_height, &highest, sizeof top_height);
    highest_ = key(top_height);
    pixels_.resize(n);
    Pixel* p = pixels_.data();
    for (const Run* r = first; r != last; ++r) {
      const float* h = height_.col(static_cast<std::size_t>(r->col));
      std::uint32_t at = static_cast<std::uint32_t>(place(*r));
      for (std::int32_t y = r->top; y < r->end; ++y) *p++ = {highest_ - key(h[y]), at++};
    }
  }

  // The highest, as bits, and whether all are whole numbers a float holds exactly.
  BM_CLONES static void look_through(const float* h, std::size_t n, std::int32_t& highest,
                                     bool& whole) {
    std::int32_t most = highest, broken = 0;
    for (std::size_t i = 0; i < n; ++i) {
      std::int32_t bits;
      std::memcpy(&bits, h + i, sizeof bits);
      most = bits > most ? bits : most;
      const float v = h[i] < 16777216.0f ? h[i] : 0.5f;
      broken |= v != static_cast<float>(static_cast<std::int32_t>(v));
    }
    highest = most;
    whole = whole && broken == 0;
  }

  std::size_t place(const Run& r) const {
    return stride_ * static_cast<std::size_t>(r.col - left_ + 1) +
           static_cast<std::size_t>(r.top - top_ + 1);
  }
  std::uint32_t key(float h) const {
    if (whole_) return static_cast<std::uint32_t>(h);
    std::uint32_t bits;
    std::memcpy(&bits, &h, sizeof bits);
    return bits;
  }
  float height(const Pixel& p) const {
    const std::uint32_t k = highest_ - p.low;
    float h;
    if (whole_)
      h = static_cast<float>(k);
    else
      std::memcpy(&h, &k, sizeof h);
    return ground_.squared ? std::sqrt(h) : h;
  }

  // The pixels of one seed are one basin from the start.
  void sow(const Run* first, const Run* last) {
    std::vector<std::pair<int, std::uint32_t>> known;
    for (const Run* r = first; r != last; ++r) {
      const int* seed = ground_.seeds.col(static_cast<std::size_t>(r->col));
      std::uint32_t* to = &room_[place(*r)];
      for (std::int32_t y = r->top; y < r->end; ++y, ++to) {
        if (seed[y] == 0) continue;
        auto found = std::find_if(known.begin(), known.end(),
                                  [&](const auto& k) { return k.first == seed[y]; });
        if (found == known.end()) {
          known.push_back({seed[y], basins_.add(0, true)});
          found = known.end() - 1;
        }
        *to = found->second;
      }
    }
  }

  bool apart(std::uint32_t a, std::uint32_t b, float here) const {
    if (ground_.seeds.data) return basins_.seeded(a) && basins_.seeded(b);
    const float peak = std::min(basins_.peak(a), basins_.peak(b));
    return peak - here >= std::max(depth_, share_ * peak);
  }

  // Pixels of one height: first those beside what is flooded already, then outward step by step, so
  // that basins meet halfway; what is left are peaks.
  void flood_level(std::size_t from, std::size_t to) {
    if (to - from == 1) return flood(pixels_[from]);
    queue_.clear();
    for (std::size_t i = from; i < to; ++i)
      if (room_[pixels_[i].at] == 0 && touches_flooded(pixels_[i].at))
        queue_.push_back(pixels_[i].at);
    if (queue_.size() == to - from) {  // nothing left to spread to
      if (one_basin())
        for (std::uint32_t at : queue_) room_[at] = 1;
      else
        for (std::size_t i = from; i < to; ++i) flood(pixels_[i]);
      return;
    }
    spread(pixels_[from].low);
    for (std::size_t i = from; i < to; ++i) {
      if (room_[pixels_[i].at] != 0) continue;
      queue_.assign(1, pixels_[i].at);
      spread(pixels_[i].low);
    }
  }

  void spread(std::uint32_t low) {
    const std::size_t s = stride_;
    for (std::size_t head = 0; head < queue_.size(); ++head) {
      const std::uint32_t at = queue_[head];
      if (room_[at] != 0) continue;
      flood({low, at});
      const float own = raw_height(at);
      for (std::size_t there : {at - s, std::size_t{at} - 1, std::size_t{at} + 1, at + s,
                                at - s - 1, at - s + 1, at + s - 1, at + s + 1})
        if (room_[there] == 0 && raw_height(there) == own)
          queue_.push_back(static_cast<std::uint32_t>(there));
    }
  }

  // As the picture of heights has it; 0 beyond the frame and on the ground.
  float raw_height(std::size_t at) const {
    const ptrdiff_t x = left_ - 1 + static_cast<ptrdiff_t>(at / stride_),
                    y = top_ - 1 + static_cast<ptrdiff_t>(at % stride_);
    const bool inside = x >= 0 && y >= 0 && x < static_cast<ptrdiff_t>(height_.cols) &&
                        y < static_cast<ptrdiff_t>(height_.rows);
    return inside ? height_.col(static_cast<std::size_t>(x))[y] : 0;
  }

  bool touches_flooded(std::uint32_t at) const {
    const std::uint32_t *here = &room_[at], *l = here - stride_, *r = here + stride_;
    return (l[-1] | l[0] | l[1] | here[-1] | here[1] | r[-1] | r[0] | r[1]) != 0;
  }

  bool one_basin() const { return basins_.size() == 1; }

  void flood(const Pixel& p) {
    if (one_basin() && touches_flooded(p.at))
      room_[p.at] = 1;
    else
      flood_among_basins(p);
  }

  void flood_among_basins(const Pixel& p) {
    std::uint32_t* here = &room_[p.at];
    if (*here != 0) return;  // of a seed
    const std::uint32_t *l = here - stride_, *r = here + stride_;
    // less one, so that clear pixels are the largest number
    const std::uint32_t around[8] = {l[0] - 1,  here[-1] - 1, here[1] - 1, r[0] - 1,
                                     l[-1] - 1, l[1] - 1,     r[-1] - 1,   r[1] - 1};
    std::uint32_t least = around[0], most = around[0] + 1;
    for (int k = 1; k < 8; ++k) {
      least = std::min(least, around[k]);
      most = std::max(most, around[k] + 1);
    }
    if (most == 0) {  // nobody there yet: a peak
      *here = basins_.add(height(p), false);
    } else if (least + 1 == most && most < kShared) {
      *here = most;
    } else {
      const std::uint32_t first = meet(around, height(p));
      *here = alike(around, first) ? first : divide(p, first);
    }
  }

  // Several basins about one pixel: joined where the lower peak does not rise far enough above it.
  // Returns the first of them; neighbours along edges come first, being the nearer ones.
  std::uint32_t meet(const std::uint32_t (&around)[8], float here) {
    std::uint32_t mine = 0;
    for (std::uint32_t there : around) {
      if (there == UINT32_MAX) continue;
      const std::uint32_t basin = basins_.root(basin_of(there + 1));
      if (mine == 0) mine = basin;
      if (basin != mine && !apart(mine, basin, here)) mine = basins_.join(mine, basin);
    }
    return mine;
  }

  // Whether all that is about a pixel has become one basin.
  bool alike(const std::uint32_t (&around)[8], std::uint32_t basin) {
    for (std::uint32_t there : around) {
      if (there == UINT32_MAX) continue;
      if (basins_.root(basin_of(there + 1)) != basin) return false;
      if (there + 1 >= kShared && basins_.root(shared_[there + 1 - kShared].second) != basin)
        return false;
    }
    return true;
  }

  // A pixel that belongs to a basin by more or less: the rest belongs to a second one.
  struct Shared {
    std::uint32_t basin, second;
    double share;
  };
  std::uint32_t basin_of(std::uint32_t v) const {
    return v < kShared ? v : shared_[v - kShared].basin;
  }

  // The shares of a pixel's two uphill neighbours; the first basin keeps it unless another has
  // clearly more. It goes only to a basin that one of the two lies in, so that every basin hangs
  // together.
  std::uint32_t divide(const Pixel& p, std::uint32_t first) {
    struct Part {
      std::uint32_t basin;
      double share;
      bool beside;
    } found[4];
    std::size_t n = 0;
    double all = 0;
    auto add = [&](std::uint32_t basin, double share, bool beside) {
      if (share <= 0) return;
      basin = basins_.root(basin);
      std::size_t k = 0;
      while (k < n && found[k].basin != basin) ++k;
      if (k == n) found[n++] = {basin, 0.0, basin == first};
      found[k].share += share;
      found[k].beside |= beside;
      all += share;
    };
    for (const auto& up : uphill(p.at)) {
      const std::uint32_t there = up.second > 1e-6 ? room_[up.first] : 0;  // less is rounding
      if (there == 0) continue;
      if (there < kShared) {
        add(there, up.second, true);
      } else {
        const Shared& s = shared_[there - kShared];
        add(s.basin, up.second * s.share, true);
        add(s.second, up.second * (1 - s.share), false);
      }
    }
    if (n == 0) return first;
    Part best{first, 1e-4 * all, true}, second{0, 0.0, false};
    for (std::size_t k = 0; k < n; ++k)
      if (found[k].basin == first) best.share += found[k].share;
    for (std::size_t k = 0; k < n; ++k)
      if (found[k].beside && found[k].share > best.share + 1e-6 * all)
        best = found[k];  // no rounding decides
    for (std::size_t k = 0; k < n; ++k)
      if (found[k].basin != best.basin && found[k].share > second.share) second = found[k];
    if (second.share <= 1e-6 * all) return best.basin;
    shared_.push_back({best.basin, second.basin, 1 - second.share / all});
    return kShared + static_cast<std::uint32_t>(shared_.size() - 1);
  }

  // The two neighbours between which the height rises steepest, and how much each counts.
  std::array<std::pair<std::size_t, double>, 2> uphill(std::uint32_t at) const {
    const ptrdiff_t s = static_cast<ptrdiff_t>(stride_);
    auto h = [&](ptrdiff_t by) {
      const float raw = raw_height(static_cast<std::size_t>(static_cast<ptrdiff_t>(at) + by));
      return static_cast<double>(ground_.squared ? std::sqrt(raw) : raw);
    };
    const double ul = h(-s - 1), ur = h(s - 1), dl = h(-s + 1), dr = h(s + 1);
    const double gx = (ur + 2 * h(s) + dr) - (ul + 2 * h(-s) + dl),
                 gy = ((dl + 2 * h(1) + dr) - (ul + 2 * h(-1) + ur)) / ground_.aspect;
    const double x = gx, y = gy / ground_.aspect, ax = std::fabs(x),
                 ay = std::fabs(y);  // in pixels
    if (!(ax + ay > 0) || !std::isfinite(ax + ay)) return {};
    const ptrdiff_t across = x < 0 ? -s : s, down = y < 0 ? -1 : 1,
                    straight = ax >= ay ? across : down;
    const double slant = std::atan2(std::min(ax, ay), std::max(ax, ay)) / 0.78539816339744831;
    return {{{static_cast<std::size_t>(static_cast<ptrdiff_t>(at) + straight), 1 - slant},
             {static_cast<std::size_t>(static_cast<ptrdiff_t>(at) + across + down), slant}}};
  }

  const std::vector<Place>& hand_over_whole(const Run* first, const Run* last, Plane<int> labels) {
    places_.assign(1, {INT32_MAX, INT32_MAX});
    for (const Run* r = first; r != last; ++r) {
      const std::size_t n = static_cast<std::size_t>(r->end - r->top);
      std::fill_n(&room_[place(*r)], n, 0u);
      std::fill_n(labels.col(static_cast<std::size_t>(r->col)) + r->top, n, 1);
      places_[0] = std::min(places_[0], Place(r->top, r->col));
    }
    return places_;
  }

  // The room is cleared on the way.
  const std::vector<Place>& hand_over(const Run* first, const Run* last, Plane<int> labels) {
    if (one_basin()) return hand_over_whole(first, last, labels);
    const int found = basins_.numbers(number_);
    places_.assign(static_cast<std::size_t>(found), {INT32_MAX, INT32_MAX});
    for (const Run* r = first; r != last; ++r) {
      std::uint32_t* from = &room_[place(*r)];
      int* to = labels.col(static_cast<std::size_t>(r->col)) + r->top;
      int before = 0;
      for (std::int32_t i = 0; i < r->end - r->top; ++i) {
        const int now = number_[basin_of(from[i])];
        from[i] = 0;
        to[i] = now;
        if (now == before) continue;
        before = now;
        Place& place = places_[static_cast<std::size_t>(now - 1)];
        place = std::min(place, Place(r->top + i, r->col));
      }
    }
    return places_;
  }

  Ground ground_;
  Plane<const float> height_;
  float depth_, share_;
  std::size_t stride_ = 0;
  std::int32_t left_ = 0, top_ = 0;
  bool whole_ = true;
  std::uint32_t highest_ = 0;
  static constexpr std::uint32_t kShared = std::uint32_t{1} << 31;  // and above: places in shared_
  Basins basins_;
  std::vector<std::uint32_t> room_, queue_;
  std::vector<Pixel> pixels_, other_;
  std::vector<Shared> shared_;
  std::vector<int> number_;
  std::vector<Place> places_;
};

}  // namespace bm
