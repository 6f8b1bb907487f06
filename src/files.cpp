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

// What went wrong, or "".
// [[Rcpp::export]]
std::string core_write_bytes(const std::string& path, const Rcpp::RawVector& bytes) {
  errno = 0;
  std::FILE* file = std::fopen(path.c_str(), "wb");
  if (file == nullptr) return std::strerror(errno);
  const std::size_t n = static_cast<std::size_t>(bytes.size());
  bool good = std::fwrite(bytes.begin(), 1, n, file) == n && std::fflush(file) == 0;
#ifdef _WIN32
  good = good && _commit(_fileno(file)) == 0;
#else
  good = good && fsync(fileno(file)) == 0;
#endif
  const int error = errno;
  if (std::fclose(file) == 0 && good) return "";
  return std::strerror(error != 0 ? error : errno);
}

// Values as a table's file gives them back: seven digits, read by the same function that reads
// files, so that not one bit differs. Whole numbers keep all their digits.
// [[Rcpp::export]]
Rcpp::NumericVector core_table_digits(const Rcpp::NumericVector& values) {
  Rcpp::NumericVector result = Rcpp::clone(values);
  char text[32];
  for (double& value : result) {
    if (!std::isfinite(value) || value == std::round(value)) continue;
    std::snprintf(text, sizeof text, "%.6e", value);
    value = R_strtod(text, nullptr);
  }
  return result;
}
