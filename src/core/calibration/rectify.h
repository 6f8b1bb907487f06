// A picture seen from above: every new pixel is looked up where the map of the plane puts it,
// bilinear.
#pragma once
#include <algorithm>
#include <cmath>

#include "../common/plane.h"

namespace bm {

// From the plane back to the picture: `back` (3 x 3, column by column), then the radial bend
// undone.
struct PlaneView {
  const double* back;
  double centre_x, centre_y, reach, bend;
  void picture_point(double x, double y, double& px, double& py) const {
    const double w = back[2] * x + back[5] * y + back[8];
    const double u = (back[0] * x + back[3] * y + back[6]) / w,
                 v = (back[1] * x + back[4] * y + back[7]) / w;
    const double bent = std::sqrt(u * u + v * v);
    double r = bent;
    for (int turn = 0; turn < 6; ++turn)
      r -= (r + bend * r * r * r - bent) / (1 + 3 * bend * r * r);
    const double stretch = bent > 0 ? r / bent * reach : reach;
    px = u * stretch + centre_x;
    py = v * stretch + centre_y;
  }
};

// (px, py) from the outer corner of the first pixel; beyond the outermost pixel centres their value
// is taken.
inline double bilinear(Plane<const double> p, double px, double py) {
  const double x = std::min(std::max(px - 0.5, 0.0), static_cast<double>(p.cols - 1));
  const double y = std::min(std::max(py - 0.5, 0.0), static_cast<double>(p.rows - 1));
  const std::size_t c = std::min(static_cast<std::size_t>(x), p.cols > 1 ? p.cols - 2 : 0);
  const std::size_t r = std::min(static_cast<std::size_t>(y), p.rows > 1 ? p.rows - 2 : 0);
  const double fx = x - static_cast<double>(c), fy = y - static_cast<double>(r);
  const double* a = p.col(c) + r;
  const double* b = p.cols > 1 ? p.col(c + 1) + r : a;
  const std::size_t down = p.rows > 1 ? 1 : 0;
  return (1 - fx) * ((1 - fy) * a[0] + fy * a[down]) + fx * ((1 - fy) * b[0] + fy * b[down]);
}

// `left`, `top`: the plane's coordinates of the new picture's corner; `size`: length of its pixels.
inline void rectify(Plane<const double> in, Plane<double> out, const PlaneView& view, double left,
                    double top, double size) {
  for (std::size_t x = 0; x < out.cols; ++x) {
    double* to = out.col(x);
    for (std::size_t y = 0; y < out.rows; ++y) {
      double px, py;
      view.picture_point(left + (static_cast<double>(x) + 0.5) * size,
                         top + (static_cast<double>(y) + 0.5) * size, px, py);
      to[y] = bilinear(in, px, py);
    }
  }
}

}  // namespace bm
