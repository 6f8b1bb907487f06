// Gaussian smoothing in a time that does not grow with sigma: Deriche (1993), "Recursively
// implementing the Gaussian and its derivatives", INRIA report 1893. The kernel is taken as the
// real part of two complex exponentials to either side, each a recursion of first order; its values
// lie within 1e-3 of the true ones' greatest. Reflecting frame. A grey of the picture is taken off
// first, so that a constant picture stays as it is.
#pragma once
#include <algorithm>
#include <cmath>
#include <complex>
#include <vector>

#include "../common/large_pages.h"
#include "../common/parallel.h"
#include "../common/plane.h"
#include "../common/speed.h"

namespace bm {

// Both terms as lanes work on them: weights (divided by the kernel's sum) and factors, real and
// imaginary parts.
struct Recursion {
  float weight[2][2], factor[2][2];
  explicit Recursion(double sigma) {
    const std::complex<double> weights[2] = {{1.680, -3.735}, {-0.6803, 0.2598}};
    const std::complex<double> rates[2] = {{-1.783, 0.6318}, {-1.723, 1.997}};
    double sum = 0;
    std::complex<double> factors[2];
    for (int k = 0; k < 2; ++k) {
      factors[k] = std::exp(rates[k] / sigma);
      sum += (weights[k] * (1.0 + factors[k]) / (1.0 - factors[k])).real();
    }
    for (int k = 0; k < 2; ++k) {
      weight[k][0] = static_cast<float>(weights[k].real() / sum);
      weight[k][1] = static_cast<float>(weights[k].imag() / sum);
      factor[k][0] = static_cast<float>(factors[k].real());
      factor[k][1] = static_cast<float>(factors[k].imag());
    }
  }
};

// State of n lines side by side: two complex numbers each.
struct Lanes {
  std::vector<float> a, b, c, d;
  explicit Lanes(std::size_t n) : a(n), b(n), c(n), d(n) {}
  void clear() {
    for (std::vector<float>* v : {&a, &b, &c, &d}) std::fill(v->begin(), v->end(), 0.0f);
  }
};

// One step along n lines: state = factor * state + value; what the state stands for is put into
// `out`.
BM_CLONES inline void step_along(const Recursion& r, const float* __restrict value,
                                 float* __restrict a, float* __restrict b, float* __restrict c,
                                 float* __restrict d, float* __restrict out, std::size_t n) {
  for (std::size_t i = 0; i < n; ++i) {
    const float a0 = r.factor[0][0] * a[i] - r.factor[0][1] * b[i] + value[i];
    const float b0 = r.factor[0][0] * b[i] + r.factor[0][1] * a[i];
    const float c0 = r.factor[1][0] * c[i] - r.factor[1][1] * d[i] + value[i];
    const float d0 = r.factor[1][0] * d[i] + r.factor[1][1] * c[i];
    a[i] = a0;
    b[i] = b0;
    c[i] = c0;
    d[i] = d0;
    out[i] = r.weight[0][0] * a0 - r.weight[0][1] * b0 + r.weight[1][0] * c0 - r.weight[1][1] * d0;
  }
}

// The same against the direction, where the value itself has been counted: what the state stands
// for is added to `out`, then state = factor * (state + value).
BM_CLONES inline void step_against(const Recursion& r, const float* __restrict value,
                                   float* __restrict a, float* __restrict b, float* __restrict c,
                                   float* __restrict d, float* __restrict out, std::size_t n) {
  for (std::size_t i = 0; i < n; ++i) {
    out[i] += r.weight[0][0] * a[i] - r.weight[0][1] * b[i] + r.weight[1][0] * c[i] -
              r.weight[1][1] * d[i];
    const float p = a[i] + value[i], q = c[i] + value[i];
    const float a0 = r.factor[0][0] * p - r.factor[0][1] * b[i],
                b0 = r.factor[0][0] * b[i] + r.factor[0][1] * p;
    const float c0 = r.factor[1][0] * q - r.factor[1][1] * d[i],
                d0 = r.factor[1][0] * d[i] + r.factor[1][1] * q;
    a[i] = a0;
    b[i] = b0;
    c[i] = c0;
    d[i] = d0;
  }
}

// Smooths n lines of `length` values, `stride` apart, that lie side by side: values and result as
// rows of n. What lies before and behind is the mirrored picture, run through for as far as the
// kernel reaches.
inline void smooth_lines(const Recursion& r, const float* values, float* out, std::size_t length,
                         std::size_t stride, std::size_t n, std::size_t reach, Lanes& s,
                         std::vector<float>& spare) {
  auto row = [&](ptrdiff_t i) { return values + reflect(i, length) * stride; };
  spare.resize(n);
  s.clear();
  for (ptrdiff_t i = -static_cast<ptrdiff_t>(reach); i < 0; ++i)
    step_along(r, row(i), s.a.data(), s.b.data(), s.c.data(), s.d.data(), spare.data(), n);
  for (std::size_t i = 0; i < length; ++i)
    step_along(r, values + i * stride, s.a.data(), s.b.data(), s.c.data(), s.d.data(),
               out + i * stride, n);
  s.clear();
  std::fill(spare.begin(), spare.end(), 0.0f);
  for (ptrdiff_t i = static_cast<ptrdiff_t>(length + reach);
       i-- > static_cast<ptrdiff_t>(length);) {
    step_against(r, row(i), s.a.data(), s.b.data(), s.c.data(), s.d.data(), spare.data(), n);
  }
  for (std::size_t i = length; i-- > 0;)
    step_against(r, values + i * stride, s.a.data(), s.b.data(), s.c.data(), s.d.data(),
                 out + i * stride, n);
}

// Columns turned so that 16 lie side by side, and back.
constexpr std::size_t kLanes = 16;

template <class Interrupt>
void gaussian_recursive(Plane<const double> in, Plane<double> out, double sigma_x, double sigma_y,
                        int threads, Interrupt interrupt) {
  const std::size_t rows = in.rows, cols = in.cols;
  if (in.size() == 0) return;
  const double reference = in.data[0];
  const Recursion down(sigma_y), across(sigma_x);
  auto reach = [](double sigma) { return static_cast<std::size_t>(std::ceil(5 * sigma)); };
  Scratch<float> kept(in.size());
  float* smooth = kept.data();
  over_columns(
      cols, threads, kLanes,
      [&](std::size_t first, std::size_t last, auto pause) {
        std::vector<float> values(rows * kLanes, 0.0f), result(rows * kLanes), spare;
        Lanes lanes(kLanes);
        for (std::size_t x = first; x < last; x += kLanes) {
          const std::size_t n = std::min(kLanes, last - x);
          for (std::size_t k = 0; k < n; ++k)
            for (std::size_t y = 0; y < rows; ++y)
              values[y * kLanes + k] = static_cast<float>(in.col(x + k)[y] - reference);
          smooth_lines(down, values.data(), result.data(), rows, kLanes, kLanes, reach(sigma_y),
                       lanes, spare);
          for (std::size_t k = 0; k < n; ++k)
            for (std::size_t y = 0; y < rows; ++y)
              smooth[(x + k) * rows + y] = result[y * kLanes + k];
          pause();
        }
      },
      interrupt);
  const std::size_t strip = 256;
  over_columns(
      rows, threads, strip,
      [&](std::size_t first, std::size_t last, auto pause) {
        std::vector<float> result(cols * strip), values(cols * strip), spare;
        Lanes lanes(strip);
        for (std::size_t y = first; y < last; y += strip) {
          const std::size_t n = std::min(strip, last - y);
          for (std::size_t x = 0; x < cols; ++x)
            std::copy(smooth + x * rows + y, smooth + x * rows + y + n, &values[x * strip]);
          smooth_lines(across, values.data(), result.data(), cols, strip, n, reach(sigma_x), lanes,
                       spare);
          for (std::size_t x = 0; x < cols; ++x)
            for (std::size_t i = 0; i < n; ++i)
              out.col(x)[y + i] = static_cast<double>(result[x * strip + i]) + reference;
          pause();
        }
      },
      interrupt);
}

}  // namespace bm
