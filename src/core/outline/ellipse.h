// The ellipse through points on part of its edge: direct least squares (Fitzgibbon, Pilu & Fisher
// 1999) in the numerically stable form of Halir & Flusser (1998).
#pragma once
#include <algorithm>
#include <array>
#include <cmath>
#include <vector>

#include "../measures/hull.h"

namespace bm {

struct Ellipse {
  double x = 0, y = 0, major = 0, minor = 0;  // whole axes
  double angle = 0;                           // of the long axis, radians from x toward y
  bool known() const { return minor > 0; }
};

using Vector3 = std::array<double, 3>;
using Matrix3 = std::array<Vector3, 3>;

inline Vector3 cross3(const Vector3& a, const Vector3& b) {
  return {a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]};
}
inline double dot3(const Vector3& a, const Vector3& b) {
  return a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
}

// Real roots of x^3 + p x^2 + q x + r.
inline std::vector<double> cubic_roots(double p, double q, double r) {
  const double third = p / 3, a = q - p * third,
               b = r + third * (2 * third * third - q);  // of the cubic without a square
  const double under = b * b / 4 + a * a * a / 27;
  if (under > 0) {
    const double root = std::sqrt(under);
    return {std::cbrt(-b / 2 + root) + std::cbrt(-b / 2 - root) - third};
  }
  const double size = 2 * std::sqrt(std::max(-a / 3, 0.0)),
               turn = std::acos(size == 0 ? 1 : std::clamp(3 * b / (a * size), -1.0, 1.0)) / 3;
  std::vector<double> roots;
  for (int k = 0; k < 3; ++k) roots.push_back(size * std::cos(turn - 2 * pi * k / 3) - third);
  return roots;
}

// A vector that the matrix turns to (nearly) nothing: across the two rows that differ most.
inline Vector3 null_vector(const Matrix3& m) {
  Vector3 best{};
  double most = -1;
  for (std::size_t i = 0; i < 3; ++i) {
    const Vector3 v = cross3(m[i], m[(i + 1) % 3]);
    if (dot3(v, v) > most) {
      most = dot3(v, v);
      best = v;
    }
  }
  return best;
}

// Axes and centre of a x^2 + b x y + c y^2 + d x + e y + f = 0; not known when that is no ellipse.
inline Ellipse ellipse_of_conic(double a, double b, double c, double d, double e, double f) {
  const double under = 4 * a * c - b * b;
  if (!(under > 0)) return {};
  Ellipse out;
  out.x = (b * e - 2 * c * d) / under;
  out.y = (b * d - 2 * a * e) / under;
  const double rest = -(f + (d * out.x + e * out.y) / 2);
  const double mean = (a + c) / 2, half = length_of((a - c) / 2, b / 2);
  const double steep = rest / (mean + half), flat = rest / (mean - half);
  if (!(steep > 0) || !(flat > 0)) return {};
  out.major = 2 * std::sqrt(std::max(steep, flat));
  out.minor = 2 * std::sqrt(std::min(steep, flat));
  // of (a, b, c) as a form, the long axis lies where the form is flattest
  const double steepest = std::atan2(b, a - c) / 2;
  out.angle = mean > 0 ? steepest + pi / 2 : steepest;
  return out;
}

inline Ellipse fit_ellipse(const std::vector<Point>& points) {
  if (points.size() < 6) return {};
  double mx = 0, my = 0, far = 0;
  const double n = static_cast<double>(points.size());
  for (const Point& p : points) {
    mx += p.x / n;
    my += p.y / n;
  }
  for (const Point& p : points) far += length_of(p.x - mx, p.y - my) / n;
  if (far == 0) return {};

  Matrix3 squares{}, mixed{}, lines{};  // S1, S2, S3
  for (const Point& p : points) {
    const double x = (p.x - mx) / far, y = (p.y - my) / far;
    const Vector3 s = {x * x, x * y, y * y}, l = {x, y, 1};
    for (std::size_t i = 0; i < 3; ++i) {
      for (std::size_t j = 0; j < 3; ++j) {
        squares[i][j] += s[i] * s[j];
        mixed[i][j] += s[i] * l[j];
        lines[i][j] += l[i] * l[j];
      }
    }
  }
  const double det = dot3(lines[0], cross3(lines[1], lines[2]));
  if (std::fabs(det) < 1e-12) return {};
  Matrix3 inverse;  // of the symmetric S3: its rows are the columns
  for (std::size_t i = 0; i < 3; ++i) {
    inverse[i] = cross3(lines[(i + 1) % 3], lines[(i + 2) % 3]);
    for (double& v : inverse[i]) v /= det;
  }
  Matrix3 line_of{}, reduced{};  // T = -S3^-1 S2', and S1 + S2 T
  for (std::size_t i = 0; i < 3; ++i)
    for (std::size_t j = 0; j < 3; ++j) line_of[i][j] = -dot3(inverse[i], mixed[j]);
  for (std::size_t i = 0; i < 3; ++i) {
    for (std::size_t j = 0; j < 3; ++j) {
      reduced[i][j] = squares[i][j];
      for (std::size_t k = 0; k < 3; ++k) reduced[i][j] += mixed[i][k] * line_of[k][j];
    }
  }
  Matrix3 m;  // with the constraint 4ac - b^2 = 1
  for (std::size_t j = 0; j < 3; ++j) {
    m[0][j] = reduced[2][j] / 2;
    m[1][j] = -reduced[1][j];
    m[2][j] = reduced[0][j] / 2;
  }
  const double trace = m[0][0] + m[1][1] + m[2][2];
  const double minors = m[0][0] * m[1][1] - m[0][1] * m[1][0] + m[0][0] * m[2][2] -
                        m[0][2] * m[2][0] + m[1][1] * m[2][2] - m[1][2] * m[2][1];
  const double whole = dot3(m[0], cross3(m[1], m[2]));
  for (double root : cubic_roots(-trace, minors, -whole)) {
    Matrix3 shifted = m;
    for (std::size_t i = 0; i < 3; ++i) shifted[i][i] -= root;
    const Vector3 v = null_vector(shifted);
    if (!(4 * v[0] * v[2] - v[1] * v[1] > 0)) continue;
    Vector3 l{};
    for (std::size_t i = 0; i < 3; ++i) l[i] = dot3(line_of[i], v);
    Ellipse e = ellipse_of_conic(v[0], v[1], v[2], l[0], l[1], l[2]);
    if (!e.known()) continue;
    e.x = mx + far * e.x;
    e.y = my + far * e.y;
    e.major *= far;
    e.minor *= far;
    return e;
  }
  return {};
}

// How far a point lies beyond the ellipse, to first order; below 0 inside.
inline double beyond(const Ellipse& e, const Point& p) {
  const double c = std::cos(e.angle), s = std::sin(e.angle);
  const double u = 2 * ((p.x - e.x) * c + (p.y - e.y) * s) / e.major,
               v = 2 * ((p.y - e.y) * c - (p.x - e.x) * s) / e.minor;
  const double radius = length_of(u, v);
  if (radius == 0) return -e.minor / 2;
  const double slope = 2 * length_of(u / e.major, v / e.minor) / radius;
  return (radius - 1) / slope;
}

// Root mean square distance of points from an ellipse.
inline double misfit(const Ellipse& e, const std::vector<Point>& points) {
  double sum = 0;
  for (const Point& p : points) sum += beyond(e, p) * beyond(e, p);
  return std::sqrt(sum / static_cast<double>(points.size()));
}

}  // namespace bm
