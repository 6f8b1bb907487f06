// Where the numbers of objects stand in a picture, so that they hide neither each other nor other
// objects.
#pragma once
#include <algorithm>
#include <cmath>
#include <cstddef>
#include <optional>
#include <vector>

namespace bm {

// Centroids of objects and half the extents of their boxes, half the widths of their numbers, in
// pixels; half the height of a number; the picture's size.
struct Numbered {
  const double *x, *y, *box_x, *box_y, *half_width;
  std::size_t count;
  double half_height, width, height;
};

// Where the number of object `of` stands, and whether beside it.
struct Spot {
  std::size_t of;
  double x, y;
  bool beside;
};

class PlaceNumbers {
 public:
  explicit PlaceNumbers(const Numbered& all) : all_(all) {}

  // A number stands within its object where there is room for it, else at the first place round it
  // that is free, else nowhere.
  void place(std::size_t of) {
    const double w = all_.half_width[of], h = all_.half_height;
    const bool inside = all_.box_x[of] > 1.3 * w && all_.box_y[of] > 1.3 * h;
    const std::optional<Spot> spot = inside ? within(of) : beside(of);
    if (spot) kept.push_back(*spot);
  }

  std::vector<Spot> kept;

 private:
  bool apart(std::size_t of, double x, double y) const {
    const double w = all_.half_width[of], h = all_.half_height;
    return std::none_of(kept.begin(), kept.end(), [&](const Spot& other) {
      return std::fabs(other.x - x) < all_.half_width[other.of] + w + all_.width * 0.004 &&
             std::fabs(other.y - y) < 2.4 * h;
    });
  }

  bool hides(std::size_t of, double x, double y) const {
    const double w = all_.half_width[of], h = all_.half_height;
    for (std::size_t i = 0; i < all_.count; ++i) {
      if (std::fabs(all_.x[i] - x) < all_.box_x[i] + w &&
          std::fabs(all_.y[i] - y) < all_.box_y[i] + h)
        return true;
    }
    return false;
  }

  std::optional<Spot> within(std::size_t of) const {
    const double w = all_.half_width[of], h = all_.half_height;
    const double x = std::min(std::max(all_.x[of], w), all_.width - w),
                 y = std::min(std::max(all_.y[of], h), all_.height - h);
    if (!apart(of, x, y)) return std::nullopt;
    return Spot{of, x, y, false};
  }

  std::optional<Spot> beside(std::size_t of) const {
    const double w = all_.half_width[of], h = all_.half_height, gap = 0.008 * all_.width;
    const double right = all_.box_x[of] + gap + w, down = all_.box_y[of] + gap + h;
    const double tried[][2] = {{right, -down}, {right, 0},     {right, down}, {-right, -down},
                               {-right, 0},    {-right, down}, {0, -down},    {0, down}};
    for (const auto& step : tried) {
      const double x = all_.x[of] + step[0], y = all_.y[of] + step[1];
      const bool seen = x >= w && x <= all_.width - w && y >= h && y <= all_.height - h;
      if (seen && apart(of, x, y) && !hides(of, x, y)) return Spot{of, x, y, true};
    }
    return std::nullopt;
  }

  Numbered all_;
};

}  // namespace bm
