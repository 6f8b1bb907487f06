// Lines traced along a band, placed to a fraction of a pixel: at every few places a fit of a
// blurred step on the raw pixels beside it, square to the line; where two lines run near each other
// of both steps at once.
#pragma once
#include <algorithm>
#include <cmath>
#include <cstddef>
#include <vector>

#include "../gauge/step_fit.h"
#include "band.h"
#include "trace.h"

namespace bm {

struct FollowRule {
  double every;     // places of the fits, pixels along the path
  double wide;      // pixels along the line that one fit takes
  double rounding;  // of grey levels
};

struct Followed {
  double along, offset, x, y, u, height, blur;
  bool fitted;
};

class Follower {
 public:
  Follower(const GaugePicture& picture, const Path& path, const Band& band, const FollowRule& rule)
      : picture_(picture),
        path_(path),
        band_(band),
        rule_(rule),
        fitter_({false, rule.rounding, 3e-3}) {}

  // One line, or two that do not meet: of each the points at the same places.
  std::vector<std::vector<Followed>> follow(const std::vector<std::vector<std::size_t>>& lines) {
    std::vector<std::vector<double>> offsets;
    for (const auto& line : lines) offsets.push_back(smoothed(line));
    std::vector<std::vector<Followed>> out(lines.size());
    const std::size_t every = std::max<std::size_t>(1, static_cast<std::size_t>(rule_.every));
    for (std::size_t i = every / 2; i < band_.along; i += every) {
      const bool close = lines.size() == 2 && std::fabs(offsets[1][i] - offsets[0][i]) < 24;
      if (close) {
        place_both(i, offsets, out);
      } else {
        for (std::size_t k = 0; k < lines.size(); ++k) out[k].push_back(place_one(i, offsets[k]));
      }
    }
    return out;
  }

 private:
  static constexpr double room = 10;  // pixels on both sides of an edge that a fit takes

  // A Gaussian of five places over the line, which moves in whole pixels.
  std::vector<double> smoothed(const std::vector<std::size_t>& line) const {
    const ptrdiff_t n = static_cast<ptrdiff_t>(line.size()), reach = 15;
    std::vector<double> out(line.size());
    for (ptrdiff_t i = 0; i < n; ++i) {
      double sum = 0, weight = 0;
      for (ptrdiff_t k = -reach; k <= reach; ++k) {
        ptrdiff_t j = i + k;
        if (band_.closed) {
          j = (j % n + n) % n;
        } else if (j < 0 || j >= n) {
          // beyond the ends the line goes on turned about its end
          j = j < 0 ? -j : 2 * (n - 1) - j;
          if (j < 0 || j >= n) continue;
          const std::size_t end = k < 0 ? 0 : static_cast<std::size_t>(n - 1);
          const double w = std::exp(-0.5 * static_cast<double>(k * k) / 25);
          sum += w * (2 * static_cast<double>(line[end]) -
                      static_cast<double>(line[static_cast<std::size_t>(j)]));
          weight += w;
          continue;
        }
        const double w = std::exp(-0.5 * static_cast<double>(k * k) / 25);
        sum += w * static_cast<double>(line[static_cast<std::size_t>(j)]);
        weight += w;
      }
      out[static_cast<std::size_t>(i)] = band_.left + sum / weight;
    }
    return out;
  }

  // How the line leans: change of its offset for a place.
  double lean(const std::vector<double>& offsets, std::size_t i) const {
    const std::size_t n = offsets.size();
    if (band_.closed) return 0.5 * (offsets[(i + 1) % n] - offsets[(i + n - 1) % n]) / band_.step;
    const std::size_t a = i > 0 ? i - 1 : 0, b = std::min(i + 1, n - 1);
    return b > a ? (offsets[b] - offsets[a]) / (static_cast<double>(b - a) * band_.step) : 0;
  }

  // How the line bends at a place beside a straight one: from points a little apart on both sides,
  // to the front of `path` where it bends forward.
  double bend(const std::vector<double>& offsets, std::size_t i, const Path& path) const {
    const std::size_t n = offsets.size(), apart = 12;
    if (!band_.closed && (i < apart || i + apart >= n)) return 0;
    const auto at = [&](std::size_t k) {
      const PathPlace p = path_.at(band_.first + band_.step * static_cast<double>(k));
      return PathPlace{p.x - offsets[k] * p.dy, p.y + offsets[k] * p.dx, 0, 0};
    };
    const PathPlace a = at((i + n - apart) % n), b = at(i), c = at((i + apart) % n), d = path.at(0);
    const double square = 0.25 * ((c.x - a.x) * (c.x - a.x) + (c.y - a.y) * (c.y - a.y));
    return ((a.x - 2 * b.x + c.x) * d.dx + (a.y - 2 * b.y + c.y) * d.dy) / square;
  }

  // Pixels as if the lines were straight: with the bend of one at its place along the short path,
  // and of another at its own.
  void flatten(double bend, double place, double other_bend, double other_place) {
    for (std::size_t k = 0; k < pixels_.size(); ++k) {
      const double t = std::clamp((pixels_.along[k] - place) / (other_place - place), 0.0, 1.0);
      pixels_.along[k] -=
          0.5 * (bend + t * (other_bend - bend)) * pixels_.across[k] * pixels_.across[k];
    }
  }

  // A short path square to the line at a place, `before` and `behind` an offset.
  Path square_path(std::size_t i, double offset, double lean, double before, double behind,
                   double& fore) const {
    const double s = band_.first + band_.step * static_cast<double>(i);
    const PathPlace p = path_.at(s);
    const Piece& piece = path_.pieces[0];
    const double stretch = piece.round ? 1 + piece.side * offset / piece.radius : 1;
    const double size = std::hypot(stretch, lean);
    const double a = stretch / size, b = -lean / size;  // across and along parts
    const double nx = -p.dy * a + p.dx * b, ny = p.dx * a + p.dy * b;
    const double x = p.x - offset * p.dy, y = p.y + offset * p.dx;
    fore = a;
    Path out;
    out.across = rule_.wide;
    out.pieces.push_back(
        line_piece(x - before * nx, y - before * ny, x + behind * nx, y + behind * ny));
    return out;
  }

  Followed none(std::size_t i, double offset) const {
    const double s = band_.first + band_.step * static_cast<double>(i);
    const PathPlace p = path_.at(s);
    return {s, offset, p.x - offset * p.dy, p.y + offset * p.dx, 0, 0, 0, false};
  }

  double mean_between(double from, double to) const {
    double sum = 0;
    std::size_t n = 0;
    for (std::size_t k = 0; k < pixels_.size(); ++k) {
      if (pixels_.along[k] < from || pixels_.along[k] > to) continue;
      sum += pixels_.grey[k];
      ++n;
    }
    return n > 0 ? sum / static_cast<double>(n) : std::nan("");
  }

  Followed taken(std::size_t i, double offset, const Path& path, const StepFit& fit, std::size_t k,
                 double expected, double fore) const {
    Followed f = none(i, offset);
    if (!fit.good || std::fabs(fit.steps[k].place - expected) > 4) return f;
    const PathPlace p = path.at(fit.steps[k].place);
    f.offset = offset + (fit.steps[k].place - expected) / fore;
    f.x = p.x;
    f.y = p.y;
    f.u = fit.u[k];
    f.height = fit.steps[k].height;
    f.blur = fitter_.own_blur(fit.blur);
    f.fitted = true;
    return f;
  }

  Followed place_one(std::size_t i, const std::vector<double>& offsets) {
    double fore;
    const Path path = square_path(i, offsets[i], lean(offsets, i), room, room, fore);
    near_pixels(picture_, path, 0, 2 * room, pixels_);
    const double bent = bend(offsets, i, path);
    flatten(bent, 0, bent, room);
    StepFit start;
    start.blur = 1.2;
    start.ground = mean_between(room - 6, room - 2);
    start.steps = {{room, mean_between(room + 2, room + 6) - start.ground, 0}};
    if (std::isnan(start.ground) || std::isnan(start.steps[0].height)) return none(i, offsets[i]);
    const PathPlace p = path.at(0);
    const StepFit fit = fitter_.fit(pixels_, start, p.dx, p.dy, picture_.aspect, 0);
    return taken(i, offsets[i], path, fit, 0, room, fore);
  }

  void place_both(std::size_t i, const std::vector<std::vector<double>>& offsets,
                  std::vector<std::vector<Followed>>& out) {
    const std::size_t first = offsets[0][i] <= offsets[1][i] ? 0 : 1, last = 1 - first;
    const double low = offsets[first][i], high = offsets[last][i], middle = 0.5 * (low + high),
                 apart = high - low;
    double fore;
    const double leaning = 0.5 * (lean(offsets[0], i) + lean(offsets[1], i));
    const double half = 0.5 * apart + room;
    const Path path = square_path(i, middle, leaning, half, half, fore);
    near_pixels(picture_, path, 0, 2 * half, pixels_);
    const double one = half - 0.5 * apart * fore, two = half + 0.5 * apart * fore,
                 inside = 0.25 * apart;
    flatten(bend(offsets[first], i, path), one, bend(offsets[last], i, path), two);
    StepFit start;
    start.blur = 1.2;
    start.ground = mean_between(one - 6, one - 2);
    const double between = mean_between(one + inside, two - inside),
                 behind = mean_between(two + 2, two + 6);
    start.steps = {{one, between - start.ground, 0}, {two, behind - between, 0}};
    StepFit fit = start;
    fit.good = false;
    if (!std::isnan(start.ground + between + behind)) {
      const PathPlace p = path.at(0);
      fit = fitter_.fit(pixels_, start, p.dx, p.dy, picture_.aspect, 0);
    }
    out[first].push_back(taken(i, low, path, fit, 0, one, fore));
    out[last].push_back(taken(i, high, path, fit, 1, two, fore));
  }

  GaugePicture picture_;
  const Path& path_;
  const Band& band_;
  FollowRule rule_;
  StepFitter fitter_;
  NearPixels pixels_;
};

}  // namespace bm
