#include "glue.h"

#include "core/sizes/bootstrap.h"
#include "core/sizes/left_out.h"

namespace {
template <class Figure>
Rcpp::NumericVector replicate(const Rcpp::IntegerVector& field, int fields, int replicates,
                              double seed, Figure figure) {
  bm::Random random(static_cast<std::uint64_t>(seed));
  bm::Draws draws(field.begin(), static_cast<std::size_t>(field.size()),
                  static_cast<std::size_t>(fields));
  Rcpp::NumericVector out(replicates);
  for (int k = 0; k < replicates; ++k) {
    draws.again(random);
    out[k] = figure(draws.times);
    if (k % 64 == 0) pause_for_user();
  }
  return out;
}
}  // namespace

// x in rising order; `field` counts from 0.
// [[Rcpp::export]]
Rcpp::NumericVector core_bootstrap_percentile(const Rcpp::NumericVector& x,
                                              const Rcpp::NumericVector& share,
                                              const Rcpp::IntegerVector& field, int fields,
                                              double p, int replicates, double seed) {
  return replicate(field, fields, replicates, seed, [&](const std::vector<std::uint16_t>& times) {
    return bm::percentile_of_draw(x.begin(), share.begin(), times, p);
  });
}

// The ratio of two sums.
// [[Rcpp::export]]
Rcpp::NumericVector core_bootstrap_ratio(const Rcpp::NumericVector& over,
                                         const Rcpp::NumericVector& under,
                                         const Rcpp::IntegerVector& field, int fields,
                                         int replicates, double seed) {
  return replicate(field, fields, replicates, seed, [&](const std::vector<std::uint16_t>& times) {
    return bm::ratio_of_draw(over.begin(), under.begin(), times);
  });
}

// The percentile without the objects of each field in turn; every field has some.
// [[Rcpp::export]]
Rcpp::NumericVector core_left_out_percentile(const Rcpp::NumericVector& x,
                                             const Rcpp::NumericVector& share,
                                             const Rcpp::IntegerVector& field, int fields,
                                             double p) {
  const bm::LeftOut left_out(x.begin(), share.begin(), field.begin(),
                             static_cast<std::size_t>(x.size()), static_cast<std::size_t>(fields));
  Rcpp::NumericVector out(fields);
  for (int f = 0; f < fields; ++f) out[f] = left_out.percentile(static_cast<std::size_t>(f), p);
  return out;
}
