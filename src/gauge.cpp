#include "gauge_glue.h"

#include "core/common/parallel.h"
#include "core/field/noise.h"
#include "core/gauge/gauge.h"

// Edges along many paths: list(edges: path, place, height, blur, u, slant, u of the slant, x, y,
// direction dx, dy of the path, fitted, covariance with the next; strongest, weak, seen: of every
// path).
// [[Rcpp::export]]
Rcpp::List core_gauge(const Rcpp::NumericMatrix& pixels,
                      const Rcpp::Nullable<Rcpp::LogicalMatrix>& outside, double aspect,
                      const Rcpp::NumericMatrix& pieces, const Rcpp::NumericVector& across,
                      const Rcpp::LogicalVector& closed, double contrast, double sigma, bool tilt,
                      double rounding, int threads) {
  const std::vector<bm::Path> paths = paths_from(pieces, across, closed);
  const bm::GaugePicture picture = gauge_picture(pixels, outside, aspect);
  const bm::GaugeRule rule{contrast, sigma, bm::noise_of(picture.grey), {tilt, rounding}};
  std::vector<bm::GaugedPath> found(paths.size());
  bm::over_columns(
      paths.size(), threads, 16,
      [&](std::size_t first, std::size_t last, auto pause) {
        bm::Gauger gauger(picture, rule);
        for (std::size_t k = first; k < last; ++k) {
          if (k % 64 == 0) pause();
          found[k] = gauger.gauge(paths[k]);
        }
      },
      pause_for_user);

  const int n = static_cast<int>(paths.size());
  int total = 0;
  for (const bm::GaugedPath& p : found) total += static_cast<int>(p.edges.size());
  Rcpp::NumericMatrix edges(total, 13);
  Rcpp::NumericVector strongest(n);
  Rcpp::IntegerVector weak(n);
  Rcpp::LogicalVector seen(n);
  for (int k = 0, i = 0; k < n; ++k) {
    const bm::GaugedPath& p = found[static_cast<std::size_t>(k)];
    strongest[k] = p.strongest;
    weak[k] = p.weak;
    seen[k] = p.seen;
    for (const bm::GaugedEdge& e : p.edges) {
      const double v[] = {k + 1.0,   e.place, e.height, e.blur, e.u,  e.slant,
                          e.u_slant, e.x,     e.y,      e.dx,   e.dy, e.fitted ? 1.0 : 0.0,
                          e.shared};
      for (int j = 0; j < 13; ++j) edges(i, j) = v[j];
      ++i;
    }
  }
  return Rcpp::List::create(Rcpp::Named("edges") = edges, Rcpp::Named("strongest") = strongest,
                            Rcpp::Named("weak") = weak, Rcpp::Named("seen") = seen);
}

// Grey levels at positions `first`, `first` + `step`, ... of one path, as they are, smoothed, and
// their slope: a matrix; NA where less than half of the width is seen.
// [[Rcpp::export]]
Rcpp::NumericMatrix core_profile(const Rcpp::NumericMatrix& pixels,
                                 const Rcpp::Nullable<Rcpp::LogicalMatrix>& outside, double aspect,
                                 const Rcpp::NumericMatrix& pieces,
                                 const Rcpp::NumericVector& across,
                                 const Rcpp::LogicalVector& closed, double first, double step,
                                 int count, double sigma, bool median) {
  const std::vector<bm::Path> paths = paths_from(pieces, across, closed);
  const bm::Path& path = paths.front();
  bm::ProfileReader reader(gauge_picture(pixels, outside, aspect));
  const std::vector<double> raw =
      reader.along(path, first, step, static_cast<std::size_t>(count), median);
  std::vector<double> smooth, slope;
  bm::Smoother(sigma, step).run(raw, path.closed, smooth, slope);
  Rcpp::NumericMatrix out(count, 6);
  for (int i = 0; i < count; ++i) {
    const std::size_t k = static_cast<std::size_t>(i);
    const double t = first + step * i;
    const bm::PathPlace p = path.at(t);
    const double v[] = {t, p.x, p.y, raw[k], smooth[k], slope[k]};
    for (int j = 0; j < 6; ++j) out(i, j) = std::isnan(v[j]) ? NA_REAL : v[j];
  }
  return out;
}
