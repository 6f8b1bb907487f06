// The grey level along a path, averaged across its width. Values between pixels come from cubics
// through four (Keys 1981): unlike straight lines through two they blur a place halfway between two
// pixels hardly more than one on a pixel.
#pragma once
#include <algorithm>
#include <array>
#include <cmath>
#include <cstddef>
#include <limits>
#include <vector>

#include "near_pixels.h"

namespace bm {

inline std::array<double, 4> cubic_weights(double t) {
  const double t2 = t * t, t3 = t2 * t;
  return {-0.5 * t3 + t2 - 0.5 * t, 1.5 * t3 - 2.5 * t2 + 1, -1.5 * t3 + 2 * t2 + 0.5 * t,
          0.5 * t3 - 0.5 * t2};
}

// Beyond the picture's frame the outermost pixels go on.
inline double cubic_at(const GaugePicture& picture, double x, double y) {
  const double u = x - 0.5, v = y / picture.aspect - 0.5;
  const ptrdiff_t i = static_cast<ptrdiff_t>(std::floor(u)),
                  j = static_cast<ptrdiff_t>(std::floor(v));
  const std::array<double, 4> wx = cubic_weights(u - static_cast<double>(i)),
                              wy = cubic_weights(v - static_cast<double>(j));
  const ptrdiff_t cols = static_cast<ptrdiff_t>(picture.grey.cols),
                  rows = static_cast<ptrdiff_t>(picture.grey.rows);
  double sum = 0;
  if (i >= 1 && j >= 1 && i + 2 < cols && j + 2 < rows) {
    const double* p = picture.grey.col(static_cast<std::size_t>(i - 1)) + j - 1;
    for (std::size_t a = 0; a < 4; ++a, p += rows)
      sum += wx[a] * (wy[0] * p[0] + wy[1] * p[1] + wy[2] * p[2] + wy[3] * p[3]);
    return sum;
  }
  for (ptrdiff_t a = 0; a < 4; ++a) {
    const double* p =
        picture.grey.col(static_cast<std::size_t>(std::clamp<ptrdiff_t>(i - 1 + a, 0, cols - 1)));
    for (ptrdiff_t b = 0; b < 4; ++b)
      sum += wx[static_cast<std::size_t>(a)] * wy[static_cast<std::size_t>(b)] *
             p[std::clamp<ptrdiff_t>(j - 1 + b, 0, rows - 1)];
  }
  return sum;
}

// Whether a place lies in the picture and in the sample.
inline bool is_seen(const GaugePicture& picture, double x, double y) {
  const double v = y / picture.aspect;
  if (!(x >= 0 && v >= 0 && x <= static_cast<double>(picture.grey.cols) &&
        v <= static_cast<double>(picture.grey.rows)))
    return false;
  if (!picture.outside) return true;
  const std::size_t i = std::min(picture.grey.cols - 1, static_cast<std::size_t>(x)),
                    j = std::min(picture.grey.rows - 1, static_cast<std::size_t>(v));
  return picture.outside[i * picture.grey.rows + j] == 0;
}

// A straight path well inside the picture, by straight lines between pixels: good enough to find
// edges by, at a tenth of the time. False where the path is not such a one.
inline bool quick_profile(const GaugePicture& picture, const Path& path, double first, double step,
                          std::size_t n, std::vector<double>& out) {
  if (path.pieces.size() != 1 || path.pieces[0].round || picture.outside) return false;
  const double half = 0.5 * path.across, last = first + step * static_cast<double>(n - 1);
  for (const double t : {first, last}) {
    const PathPlace p = path.pieces[0].at(t);
    for (const double w : {-half, half}) {
      const double x = p.x - w * p.dy, y = (p.y + w * p.dx) / picture.aspect;
      if (!(x > 1 && y > 1 && x < static_cast<double>(picture.grey.cols) - 1 &&
            y < static_cast<double>(picture.grey.rows) - 1))
        return false;
    }
  }
  const std::size_t rows = picture.grey.rows,
                    lines = static_cast<std::size_t>(std::max(1.0, std::ceil(path.across - 1e-9)));
  const PathPlace p = path.pieces[0].at(first);
  out.assign(n, 0);
  for (std::size_t k = 0; k < lines; ++k) {
    const double w =
        ((static_cast<double>(k) + 0.5) / static_cast<double>(lines) - 0.5) * path.across;
    const double x0 = p.x - w * p.dy - 0.5, y0 = (p.y + w * p.dx) / picture.aspect - 0.5,
                 dx = step * p.dx, dy = step * p.dy / picture.aspect;
    for (std::size_t i = 0; i < n; ++i) {
      const double u = x0 + dx * static_cast<double>(i), v = y0 + dy * static_cast<double>(i);
      const std::size_t a = static_cast<std::size_t>(u), b = static_cast<std::size_t>(v);
      const double fu = u - static_cast<double>(a), fv = v - static_cast<double>(b);
      const double* q = picture.grey.data + a * rows + b;
      out[i] +=
          (1 - fu) * (q[0] + fv * (q[1] - q[0])) + fu * (q[rows] + fv * (q[rows + 1] - q[rows]));
    }
  }
  for (double& v : out) v /= static_cast<double>(lines);
  return true;
}

// Values at positions first, first + step, ...; NaN where less than half of the width is seen.
class ProfileReader {
 public:
  explicit ProfileReader(const GaugePicture& picture) : picture_(picture) {}

  double at(const Path& path, double t, bool median) {
    const PathPlace p = path.at(t);
    const std::size_t n = static_cast<std::size_t>(std::max(1.0, std::ceil(path.across - 1e-9)));
    values_.clear();
    for (std::size_t k = 0; k < n; ++k) {
      const double w =
          ((static_cast<double>(k) + 0.5) / static_cast<double>(n) - 0.5) * path.across;
      const double x = p.x - w * p.dy, y = p.y + w * p.dx;
      if (is_seen(picture_, x, y)) values_.push_back(cubic_at(picture_, x, y));
    }
    if (2 * values_.size() < n || values_.empty()) return std::numeric_limits<double>::quiet_NaN();
    return median ? middle() : mean();
  }

  std::vector<double> along(const Path& path, double first, double step, std::size_t n,
                            bool median = false) {
    std::vector<double> out(n);
    for (std::size_t i = 0; i < n; ++i)
      out[i] = at(path, first + step * static_cast<double>(i), median);
    return out;
  }

 private:
  double mean() const {
    double sum = 0;
    for (const double v : values_) sum += v;
    return sum / static_cast<double>(values_.size());
  }
  double middle() {
    const std::size_t half = values_.size() / 2;
    std::sort(values_.begin(), values_.end());
    return values_.size() % 2 ? values_[half] : 0.5 * (values_[half - 1] + values_[half]);
  }

  GaugePicture picture_;
  std::vector<double> values_;
};

// A Gaussian over samples a step apart, or its slope; what is not known (NaN) does not count.
// `round`: the end is followed by the beginning.
class Smoother {
 public:
  Smoother(double sigma, double step) {
    const double s = sigma / step;
    const std::size_t reach = std::max<std::size_t>(1, static_cast<std::size_t>(std::ceil(4 * s)));
    double even = 0, odd = 0;
    for (std::size_t k = 0; k <= reach; ++k) {
      const double z = static_cast<double>(k);
      weight_.push_back(s > 0 ? std::exp(-0.5 * z * z / (s * s)) : (k == 0 ? 1.0 : 0.0));
      lever_.push_back(s > 0 ? z * weight_.back() : (k == 1 ? 1.0 : 0.0));
      even += (k == 0 ? 1 : 2) * weight_.back();
      odd += 2 * z * lever_.back() * step;
    }
    for (double& w : weight_) w /= even;
    for (double& w : lever_) w /= odd;
  }

  void run(const std::vector<double>& in, bool round, std::vector<double>& smooth,
           std::vector<double>& slope) {
    const std::size_t n = in.size(), reach = weight_.size() - 1;
    pad(in, round, reach);
    smooth.assign(n, 0);
    slope.assign(n, 0);
    const double* middle = padded_.data() + reach;
    for (std::size_t i = 0; i < n; ++i) smooth[i] = weight_[0] * middle[i];
    for (std::size_t k = 1; k <= reach; ++k) {
      const double w = weight_[k], l = lever_[k], *left = middle - k, *right = middle + k;
      for (std::size_t i = 0; i < n; ++i) {
        smooth[i] += w * (left[i] + right[i]);
        slope[i] += l * (right[i] - left[i]);
      }
    }
    for (std::size_t i = 0; i < n; ++i)
      if (std::isnan(in[i])) smooth[i] = slope[i] = in[i];
  }

 private:
  // What is not known, and what lies beyond the ends, goes on as the nearest that is: no slope
  // arises there.
  void pad(const std::vector<double>& in, bool round, std::size_t reach) {
    const std::size_t n = in.size();
    filled_ = in;
    std::size_t last = n;  // the last known
    for (std::size_t i = 0; i < n; ++i) {
      if (!std::isnan(in[i])) {
        for (std::size_t j = last == n ? 0 : (last + i) / 2 + 1; j < i; ++j) filled_[j] = in[i];
        last = i;
      } else if (last < n) {
        filled_[i] = in[last];
      }
    }
    padded_.resize(n + 2 * reach);
    for (std::size_t i = 0; i < padded_.size(); ++i) {
      const std::size_t at = i + (round ? n * (reach / n + 1) : 0);
      padded_[i] =
          round ? filled_[(at - reach) % n] : filled_[i < reach ? 0 : std::min(i - reach, n - 1)];
    }
  }

  std::vector<double> filled_, padded_;
  std::vector<double> weight_, lever_;
};

}  // namespace bm
