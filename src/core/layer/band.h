// A band along a path, straightened: for places a pixel apart along it the grey levels on the line
// across, a pixel apart, from left to right as the path runs. A path along the rows or columns of
// the picture goes through pixel centres, so that nothing is lost between pixels.
#pragma once
#include <algorithm>
#include <cmath>
#include <cstddef>
#include <limits>
#include <vector>

#include "../gauge/near_pixels.h"
#include "../gauge/path.h"

namespace bm {

struct Band {
  std::size_t along = 0, across = 0;
  bool closed = false;
  double first = 0, step = 1,
         left = 0;          // positions first, first + step, ...; offsets left, left + 1, ...
  std::vector<float> grey;  // across is contiguous; NaN where nothing is seen
  float* line(std::size_t i) { return grey.data() + i * across; }
  const float* line(std::size_t i) const { return grey.data() + i * across; }
};

inline bool seen_at(const GaugePicture& picture, double x, double v, float& grey) {
  const double u = x - 0.5, w = v - 0.5;
  const double cols = static_cast<double>(picture.grey.cols),
               rows = static_cast<double>(picture.grey.rows);
  if (!(x >= 0 && v >= 0 && x <= cols && v <= rows)) return false;
  const std::size_t a = static_cast<std::size_t>(std::min(std::max(u, 0.0), cols - 1)),
                    b = static_cast<std::size_t>(std::min(std::max(w, 0.0), rows - 1));
  const std::size_t right = a + 1 < picture.grey.cols ? picture.grey.rows : 0,
                    below = b + 1 < picture.grey.rows ? 1 : 0;
  const std::size_t at = a * picture.grey.rows + b;
  if (picture.outside && picture.outside[at]) return false;
  const double fu = std::min(std::max(u - static_cast<double>(a), 0.0), 1.0),
               fw = std::min(std::max(w - static_cast<double>(b), 0.0), 1.0);
  const double* q = picture.grey.data + at;
  grey = static_cast<float>((1 - fu) * (q[0] + fw * (q[below] - q[0])) +
                            fu * (q[right] + fw * (q[right + below] - q[right])));
  return true;
}

// Where a straight path along x or y begins so that its places are pixel centres.
inline double centre_start(double start, double direction) {
  const double first = direction > 0 ? std::ceil(start - 0.5) + 0.5 : std::floor(start + 0.5) - 0.5;
  return (first - start) * direction;
}

// The line across a level path is part of a column, upward or downward. False where it leaves the
// picture.
inline bool copy_column(const GaugePicture& picture, const PathPlace& p, const Band& band,
                        float* line) {
  const double first = p.y + band.left * p.dx,
               last = first + p.dx * static_cast<double>(band.across - 1);
  const double rows = static_cast<double>(picture.grey.rows);
  if (std::min(first, last) < 0 || std::max(first, last) > rows || p.x < 0 ||
      p.x >= static_cast<double>(picture.grey.cols))
    return false;
  const double* column = picture.grey.col(static_cast<std::size_t>(p.x));
  const std::size_t at = static_cast<std::size_t>(first);
  for (std::size_t j = 0; j < band.across; ++j)
    line[j] = static_cast<float>(p.dx > 0 ? column[at + j] : column[at - j]);
  return true;
}

inline Band band_along(const GaugePicture& picture, const Path& path, double reach) {
  Band band;
  const double length = path.length();
  const bool straight = path.pieces.size() == 1 && !path.pieces[0].round && picture.aspect == 1;
  const PathPlace start = path.at(0);
  const bool level = straight && std::fabs(start.dy) < 1e-12,
             upright = straight && std::fabs(start.dx) < 1e-12;
  if (level) band.first = centre_start(start.x, start.dx);
  if (upright) band.first = centre_start(start.y, start.dy);
  band.left = -reach;
  if (level || upright) {  // offsets that are pixel centres
    const double axis = level ? start.y : start.x, side = level ? start.dx : -start.dy;
    band.left = centre_start(axis - side * reach, side) - reach;
  }
  band.along = path.closed
                   ? std::max<std::size_t>(16, static_cast<std::size_t>(std::round(length)))
                   : static_cast<std::size_t>(std::max(0.0, length - band.first) + 1e-9) + 1;
  band.closed = path.closed;
  if (path.closed) band.step = length / static_cast<double>(band.along);
  band.across = static_cast<std::size_t>(reach - band.left + 1e-9) + 1;
  band.grey.assign(band.along * band.across, std::numeric_limits<float>::quiet_NaN());
  for (std::size_t i = 0; i < band.along; ++i) {
    const PathPlace p = path.at(band.first + band.step * static_cast<double>(i));
    float* line = band.line(i);
    if (level && !picture.outside && copy_column(picture, p, band, line)) continue;
    for (std::size_t j = 0; j < band.across; ++j) {
      const double w = band.left + static_cast<double>(j);
      float grey;
      if (seen_at(picture, p.x - w * p.dy, (p.y + w * p.dx) / picture.aspect, grey)) line[j] = grey;
    }
  }
  return band;
}

}  // namespace bm
