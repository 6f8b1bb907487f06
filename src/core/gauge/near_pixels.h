// The pixels of a picture whose centres lie within a stretch of a path and its width, each with its
// position along and across.
#pragma once
#include <algorithm>
#include <cmath>
#include <cstddef>
#include <vector>

#include "../common/plane.h"
#include "path.h"

namespace bm {

// A picture with what does not belong to the sample (may be null) and the height of a pixel over
// its width.
struct GaugePicture {
  Plane<const double> grey;
  const int* outside;
  double aspect;
};

class NearPixels {
 public:
  std::vector<double> along, across, grey;  // longer than size()
  void clear() { size_ = 0; }
  std::size_t size() const { return size_; }
  void add(double t, double w, double g) {
    if (size_ == grey.size()) {
      const std::size_t more = std::max<std::size_t>(256, 2 * size_);
      along.resize(more);
      across.resize(more);
      grey.resize(more);
    }
    along[size_] = t;
    across[size_] = w;
    grey[size_++] = g;
  }

 private:
  std::size_t size_ = 0;
};

// Pixels at positions from .. to of one piece; `offset`: where the piece begins along the path.
// Whoever lies on the line between two paths of a width belongs to one of them.
inline void add_near_pixels(const GaugePicture& picture, const Piece& piece, double from, double to,
                            double offset, double width, NearPixels& out) {
  const double half = 0.5 * width;
  double left = 1e300, right = -1e300, top = 1e300, bottom = -1e300;
  const int steps = piece.round ? std::max(2, static_cast<int>((to - from) / piece.radius * 8)) : 1;
  // between two places on an arc it bulges by at most this much
  const double bulge =
      piece.round ? (piece.radius + half) * (1 - std::cos(0.5 * (to - from) / piece.radius / steps))
                  : 0;
  for (int k = 0; k <= steps; ++k) {
    const PathPlace p = piece.at(from + (to - from) * k / steps);
    for (const double w : {-half, half}) {
      left = std::min(left, p.x - w * p.dy - bulge);
      right = std::max(right, p.x - w * p.dy + bulge);
      top = std::min(top, p.y + w * p.dx - bulge);
      bottom = std::max(bottom, p.y + w * p.dx + bulge);
    }
  }
  const double rows = static_cast<double>(picture.grey.rows),
               cols = static_cast<double>(picture.grey.cols), slack = 1e-9;
  const double aspect = picture.aspect;
  const std::size_t x0 = static_cast<std::size_t>(std::min(cols, std::max(0.0, std::floor(left)))),
                    x1 = static_cast<std::size_t>(std::min(cols, std::max(0.0, std::ceil(right)))),
                    y0 = static_cast<std::size_t>(
                        std::min(rows, std::max(0.0, std::floor(top / aspect)))),
                    y1 = static_cast<std::size_t>(
                        std::min(rows, std::max(0.0, std::ceil(bottom / aspect))));
  const double middle = 0.5 * (from + to);
  for (std::size_t x = x0; x < x1; ++x) {
    std::size_t first = y0, last = y1;
    const double px = static_cast<double>(x) + 0.5;
    if (!piece.round) {  // the rows that this column can reach
      double low = 1e300, high = -1e300;
      const double u = px - piece.x;
      // along and across are linear in y: |across| <= half gives rows
      if (std::fabs(piece.dx) > 1e-6) {
        const double a = (u * piece.dy - half) / piece.dx, b = (u * piece.dy + half) / piece.dx;
        low = std::min(a, b) + piece.y;
        high = std::max(a, b) + piece.y;
        first = std::max(
            first, static_cast<std::size_t>(std::max(0.0, std::floor(low / aspect - 0.5 - slack))));
        last = std::min(
            last, static_cast<std::size_t>(std::max(0.0, std::ceil(high / aspect + 0.5 + slack))));
      }
    }
    const double* grey = picture.grey.col(x);
    const int* outside = picture.outside ? picture.outside + x * picture.grey.rows : nullptr;
    for (std::size_t y = first; y < last; ++y) {
      if (outside && outside[y]) continue;
      double along, across;
      piece.locate(px, (static_cast<double>(y) + 0.5) * aspect, middle, along, across);
      if (across < -half - slack || across >= half - slack) continue;
      if (along < from - slack || along >= to - slack) continue;
      out.add(along + offset, across, grey[y]);
    }
  }
}

inline void near_pixels(const GaugePicture& picture, const Path& path, double from, double to,
                        NearPixels& out) {
  out.clear();
  const std::size_t n = path.pieces.size();
  if (path.closed && n == 1) {  // a circle: positions go on beyond its seam
    add_near_pixels(picture, path.pieces[0], from, to, 0, path.across, out);
    return;
  }
  double start = 0;
  for (std::size_t k = 0; k < n; ++k) {
    const Piece& piece = path.pieces[k];
    const double a = std::max(from - start, 0.0), b = std::min(to - start, piece.length);
    if (a < b) add_near_pixels(picture, piece, a, b, start, path.across, out);
    start += piece.length;
  }
}

}  // namespace bm
