// Parting touching objects: the object pixels are flooded from the greatest height down; two
// basins that meet stay apart when the lower of their peaks rises at least `depth` above the
// pass, and are one object otherwise (peaks by dynamics: Grimaud 1992; flooding in order of
// height: Vincent & Soille 1991). With seeds, they stay apart when both hold one. Each connected component is
// flooded by itself.
#pragma once
#include <algorithm>
#include <cmath>
#include <cstdint>
#include <cstring>
#include <vector>

#include "label.h"
#include "parallel.h"
#include "speed.h"

namespace bm {

// The topmost, there leftmost pixel of a basin.
typedef std::pair<std::int32_t, std::int32_t> Place;

// What is flooded: heights, or their squares (of distances); and the seeds, 0 where there is none, or no plane at all.
struct Ground {
  Plane<const float> height;
  bool squared;
  double depth;
  Plane<const int> seeds;
};

// Floods one component after the other in a room of its own: a box with a free pixel all round, so that neither the frame nor
// neighbours need a test, and small, so that it stays in the cache. The room is clear between components.
class Flood {
 public:
  explicit Flood(const Ground& ground) : ground_(ground), height_(ground.height), depth_(static_cast<float>(ground.depth)) {}

  // Writes the numbers 1 .. n of the component's basins into `labels`; returns their places.
  const std::vector<Place>& run(const Run* first, const Run* last, Plane<int> labels) {
    lay_out(first, last);
    parent_.assign(1, 0);
    peak_.assign(1, 0.0f);
    seeded_.assign(1, false);
    if (ground_.seeds.data) sow(first, last);
    sort();
    for (const Pixel& p : pixels_) flood(p);
    return hand_over(first, last, labels);
  }

 private:
  struct Pixel {
    std::uint32_t low, at;  // how far below the top, in the order of heights; place in the room
  };

  // Heights of the pixels as whole numbers that sort as they do: positive floats sort as their bits.
  void lay_out(const Run* first, const Run* last) {
    std::int32_t top = INT32_MAX, bottom = 0;
    for (const Run* r = first; r != last; ++r) {
      top = std::min(top, r->top);
      bottom = std::max(bottom, r->end);
    }
    left_ = first->col;
    top_ = top;
    stride_ = static_cast<size_t>(bottom - top + 2) | 1;
    const size_t need = stride_ * static_cast<size_t>((last - 1)->col - left_ + 3);
    if (room_.size() < need) room_.resize(need, 0);
    whole_ = true;
    float highest = 0;
    size_t n = 0;
    for (const Run* r = first; r != last; ++r) {
      const float* h = height_.col(static_cast<size_t>(r->col));
      n += static_cast<size_t>(r->end - r->top);
      for (std::int32_t y = r->top; y < r->end; ++y) {
        highest = std::max(highest, h[y]);
        whole_ &= h[y] < 16777216.0f && h[y] == static_cast<float>(static_cast<std::int32_t>(h[y]));
      }
    }
    highest_ = key(highest);
    pixels_.resize(n);
    Pixel* p = pixels_.data();
    for (const Run* r = first; r != last; ++r) {
      const float* h = height_.col(static_cast<size_t>(r->col));
      std::uint32_t at = static_cast<std::uint32_t>(place(*r));
      for (std::int32_t y = r->top; y < r->end; ++y) *p++ = {highest_ - key(h[y]), at++};
    }
  }

  size_t place(const Run& r) const { return stride_ * static_cast<size_t>(r.col - left_ + 1) + static_cast<size_t>(r.top - top_ + 1); }
  std::uint32_t key(float h) const {
    if (whole_) return static_cast<std::uint32_t>(h);
    std::uint32_t bits;
    std::memcpy(&bits, &h, sizeof bits);
    return bits;
  }
  float height(const Pixel& p) const {
    const std::uint32_t k = highest_ - p.low;
    float h;
    if (whole_) h = static_cast<float>(k);
    else std::memcpy(&h, &k, sizeof h);
    return ground_.squared ? std::sqrt(h) : h;
  }

  std::uint32_t new_basin(float peak, bool seeded) {
    const std::uint32_t basin = static_cast<std::uint32_t>(parent_.size());
    parent_.push_back(basin);
    peak_.push_back(peak);
    seeded_.push_back(seeded);
    return basin;
  }

  // The pixels of one seed are one basin from the start.
  void sow(const Run* first, const Run* last) {
    std::vector<std::pair<int, std::uint32_t>> known;
    for (const Run* r = first; r != last; ++r) {
      const int* seed = ground_.seeds.col(static_cast<size_t>(r->col));
      std::uint32_t* to = &room_[place(*r)];
      for (std::int32_t y = r->top; y < r->end; ++y, ++to) {
        if (seed[y] == 0) continue;
        auto found = std::find_if(known.begin(), known.end(), [&](const auto& k) { return k.first == seed[y]; });
        if (found == known.end()) {
          known.push_back({seed[y], new_basin(0, true)});
          found = known.end() - 1;
        }
        *to = found->second;
      }
    }
  }

  bool apart(std::uint32_t a, std::uint32_t b, float here) const {
    if (ground_.seeds.data) return seeded_[a] && seeded_[b];
    return std::min(peak_[a], peak_[b]) - here >= depth_;
  }

  // Highest first; equal heights stay in order of position, so that basins meet halfway.
  void sort() {
    other_.resize(pixels_.size());
    std::uint32_t lowest = 0;
    for (const Pixel& p : pixels_) lowest = std::max(lowest, p.low);
    const int digit = 11;
    for (int shift = 0; shift < 32 && (lowest >> shift) != 0; shift += digit) {
      const std::uint32_t values = std::min<std::uint32_t>((lowest >> shift) + 1, 1u << digit), mask = (1u << digit) - 1;
      std::uint32_t start[(1u << digit) + 1];
      std::fill(start, start + values + 1, 0u);
      for (const Pixel& p : pixels_) ++start[((p.low >> shift) & mask) + 1];
      for (std::uint32_t k = 0; k < values; ++k) start[k + 1] += start[k];
      for (const Pixel& p : pixels_) other_[start[(p.low >> shift) & mask]++] = p;
      pixels_.swap(other_);
    }
  }

  void flood(const Pixel& p) {
    std::uint32_t* here = &room_[p.at];
    if (*here != 0) return;  // of a seed
    const std::uint32_t *l = here - stride_, *r = here + stride_;
    // less one, so that clear pixels are the largest number
    const std::uint32_t around[8] = {l[0] - 1, here[-1] - 1, here[1] - 1, r[0] - 1, l[-1] - 1, l[1] - 1, r[-1] - 1, r[1] - 1};
    std::uint32_t least = around[0], most = around[0] + 1;
    for (int k = 1; k < 8; ++k) {
      least = std::min(least, around[k]);
      most = std::max(most, around[k] + 1);
    }
    if (most == 0) {  // nobody there yet: a peak
      most = new_basin(height(p), false);
    } else if (least + 1 != most) {
      most = meet(around, height(p));
    }
    *here = most;
  }

  // Several basins about one pixel: joined where the lower peak does not rise far enough above it. Returns the pixel's own;
  // neighbours along edges come first, being the nearer ones.
  std::uint32_t meet(const std::uint32_t (&around)[8], float here) {
    std::uint32_t mine = 0;
    for (std::uint32_t there : around) {
      if (there == UINT32_MAX) continue;
      const std::uint32_t basin = root(there + 1);
      if (mine == 0) mine = basin;
      if (basin == mine || apart(mine, basin, here)) continue;
      const float higher = std::max(peak_[mine], peak_[basin]);
      const bool seeded = seeded_[mine] || seeded_[basin];
      const std::uint32_t kept = std::min(mine, basin);
      parent_[std::max(mine, basin)] = kept;
      mine = kept;
      peak_[mine] = higher;
      seeded_[mine] = seeded;
    }
    return mine;
  }

  std::uint32_t root(std::uint32_t i) {
    while (parent_[i] != i) i = parent_[i] = parent_[parent_[i]];
    return i;
  }

  // The room is cleared on the way.
  const std::vector<Place>& hand_over(const Run* first, const Run* last, Plane<int> labels) {
    number_.assign(parent_.size(), 0);
    places_.clear();
    int found = 0;
    for (std::uint32_t k = 1; k < parent_.size(); ++k) {
      const std::uint32_t r = root(k);  // never above k
      number_[k] = r == k ? ++found : number_[r];
    }
    places_.assign(static_cast<size_t>(found), {INT32_MAX, INT32_MAX});
    for (const Run* r = first; r != last; ++r) {
      std::uint32_t* from = &room_[place(*r)];
      int* to = labels.col(static_cast<size_t>(r->col)) + r->top;
      int before = 0;
      for (std::int32_t i = 0; i < r->end - r->top; ++i) {
        const int now = number_[from[i]];
        from[i] = 0;
        to[i] = now;
        if (now == before) continue;
        before = now;
        Place& place = places_[static_cast<size_t>(now - 1)];
        place = std::min(place, Place(r->top + i, r->col));
      }
    }
    return places_;
  }

  Ground ground_;
  Plane<const float> height_;
  float depth_;
  size_t stride_ = 0;
  std::int32_t left_ = 0, top_ = 0;
  bool whole_ = true;
  std::uint32_t highest_ = 0;
  std::vector<std::uint32_t> room_, parent_;
  std::vector<Pixel> pixels_, other_;
  std::vector<float> peak_;
  std::vector<bool> seeded_;
  std::vector<int> number_;
  std::vector<Place> places_;
};

// Numbers in reading order for places that come in any order.
inline std::vector<int> reading_order(const std::vector<Place>& places) {
  std::vector<std::uint32_t> order(places.size());
  for (size_t k = 0; k < order.size(); ++k) order[k] = static_cast<std::uint32_t>(k);
  std::sort(order.begin(), order.end(), [&](std::uint32_t a, std::uint32_t b) { return places[a] < places[b]; });
  std::vector<int> number(places.size());
  for (size_t k = 0; k < order.size(); ++k) number[order[k]] = static_cast<int>(k + 1);
  return number;
}

struct Parted {
  int components, count;
};

// labels receives 0 and 1 .. count in reading order.
template <class Interrupt>
Parted watershed(const BitPlane& bits, const Ground& ground, Plane<int> labels, int threads, Interrupt interrupt) {
  const ObjectRuns found = object_runs(bits);
  std::vector<size_t> start;
  const std::vector<Run> runs = by_object(found.runs, found.object, found.count, start);
  const size_t components = static_cast<size_t>(found.count);
  over_columns(labels.cols, threads, 1, [&](size_t first, size_t last, auto) {
    std::memset(labels.col(first), 0, (last - first) * labels.rows * sizeof(int));
  }, interrupt);
  std::vector<std::vector<Place>> places(components + 1);
  over_columns(components, threads, 1, [&](size_t first, size_t last, auto pause) {
    Flood flood(ground);
    for (size_t k = first + 1; k <= last; ++k) {
      places[k] = flood.run(runs.data() + start[k], runs.data() + start[k + 1], labels);
      if (k % 256 == 0) pause();
    }
  }, interrupt);
  std::vector<Place> all;
  std::vector<size_t> offset(components + 1, 0);
  for (size_t k = 1; k <= components; ++k) {
    offset[k] = all.size();
    all.insert(all.end(), places[k].begin(), places[k].end());
  }
  const std::vector<int> number = reading_order(all);
  over_columns(components, threads, 1, [&](size_t first, size_t last, auto) {
    for (size_t k = first + 1; k <= last; ++k) {
      const int* mine = number.data() + offset[k];
      for (size_t i = start[k]; i < start[k + 1]; ++i) {
        int* column = labels.col(static_cast<size_t>(runs[i].col));
        for (std::int32_t y = runs[i].top; y < runs[i].end; ++y) column[y] = mine[column[y] - 1];
      }
    }
  }, interrupt);
  return {found.count, static_cast<int>(all.size())};
}

}  // namespace bm
