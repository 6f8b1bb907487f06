// A file written so that a full disk is noticed: every step is asked whether it went well, and the
// bytes are on the disk before anything is renamed. R's own connections say nothing of a write that
// failed.
#include <cerrno>
#include <cmath>
#include <cstdio>
#include <cstring>
#include <string>
#ifdef _WIN32
#include <io.h>
#else
#include <unistd.h>
#endif

#include <R_ext/Utils.h>
#include <Rcpp.h>

namespace {

// What went wrong in closing a file, whose bytes are on the disk then if it is flushed; or "".
std::string close_written(std::FILE* file, bool good, bool flush) {
  good = good && std::fflush(file) == 0;
#ifdef _WIN32
  good = good && (!flush || _commit(_fileno(file)) == 0);
#else
  good = good && (!flush || fsync(fileno(file)) == 0);
#endif
  const int error = errno;
  if (std::fclose(file) == 0 && good) return "";
  return std::strerror(error != 0 ? error : errno);
}

}  // namespace

// What went wrong, or "". `append`: to what is in the file.
// [[Rcpp::export]]
std::string core_write_bytes(const std::string& path, const Rcpp::RawVector& bytes, bool flush,
                             bool append = false) {
  errno = 0;
  std::FILE* file = std::fopen(path.c_str(), append ? "ab" : "wb");
  if (file == nullptr) return std::strerror(errno);
  const std::size_t n = static_cast<std::size_t>(bytes.size());
  return close_written(file, std::fwrite(bytes.begin(), 1, n, file) == n, flush);
}

// The same for a file that another has written.
// [[Rcpp::export]]
std::string core_flush(const std::string& path) {
  errno = 0;
  std::FILE* file = std::fopen(path.c_str(), "ab");
  if (file == nullptr) return std::strerror(errno);
  return close_written(file, true, true);
}

// Everything that is written is on the disk, as far as the system can tell.
// [[Rcpp::export]]
void core_flush_all() {
#ifndef _WIN32
  sync();
#endif
}

// Values as a table's file gives them back: seven digits, by the same arithmetic as R reads them,
// so that not one bit differs. Whole numbers keep all their digits.
// [[Rcpp::export]]
Rcpp::NumericVector core_table_digits(const Rcpp::NumericVector& values) {
  Rcpp::NumericVector result = Rcpp::clone(values);
  // powers of ten that a long double holds exactly
  long double power[28] = {1};
  for (int k = 1; k < 28; ++k) power[k] = power[k - 1] * 10;
  for (double& value : result) {
    if (!std::isfinite(value)) continue;
    if (value == std::round(value) && std::fabs(value) < 1e15) continue;
    const int shift = 6 - static_cast<int>(std::floor(std::log10(std::fabs(value))));
    if (shift < 1 || shift > 26) {
      char text[32];
      std::snprintf(text, sizeof text, "%.6e", value);
      value = R_strtod(text, nullptr);
      continue;
    }
    value = static_cast<double>(std::nearbyint(value * power[shift]) / power[shift]);
  }
  return result;
}
