// A file written so that a full disk is noticed: every step is asked whether it went well, and the
// bytes are on the disk before anything is renamed. R's own connections say nothing of a write that
// failed.
#include "core/common/speed.h"

#include <algorithm>
#include <cerrno>
#include <cmath>
#include <cstdint>
#include <cstdio>
#include <cstring>
#include <memory>
#include <string>
#include <vector>
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

// floor(log10(value)), a double above zero.
int tens(double value) {
  static const double powers[23] = {1e0,  1e1,  1e2,  1e3,  1e4,  1e5,  1e6,  1e7,
                                    1e8,  1e9,  1e10, 1e11, 1e12, 1e13, 1e14, 1e15,
                                    1e16, 1e17, 1e18, 1e19, 1e20, 1e21, 1e22};
  if (value < 1 || value >= 1e22) return static_cast<int>(std::floor(std::log10(value)));
  int twos = 0;
  std::frexp(value, &twos);
  const int least = (twos - 1) * 1233 >> 12;  // 1233 / 4096 is a little below log10(2)
  return least + (value >= powers[least + 1]);
}

struct Close {
  void operator()(std::FILE* file) const { std::fclose(file); }
};
using Closed = std::unique_ptr<std::FILE, Close>;

bool seek_to(std::FILE* file, double place) {
#ifdef _WIN32
  return _fseeki64(file, static_cast<long long>(place), SEEK_SET) == 0;
#else
  return fseeko(file, static_cast<off_t>(place), SEEK_SET) == 0;
#endif
}

// In lanes of a byte, which std::count() widens one by one.
BM_CLONES std::size_t count_bytes(const char* from, std::size_t n, char what) {
  std::size_t total = 0;
  for (std::size_t at = 0; at < n; at += 128) {
    const std::size_t m = std::min<std::size_t>(128, n - at);
    std::uint8_t count = 0;
    for (std::size_t i = 0; i < m; ++i)
      count = static_cast<std::uint8_t>(count + (from[at + i] == what));
    total += count;
  }
  return total;
}

// The header is the first row, and of no group.
std::vector<double> row_starts(std::FILE* file, const int* rows, R_xlen_t groups) {
  std::vector<double> starts;
  std::vector<char> block(std::size_t{1} << 20);
  std::size_t quotes = 0;  // of the row so far
  double place = 0;
  R_xlen_t group = -1;
  int left = 1;
  while (const std::size_t n = std::fread(block.data(), 1, block.size(), file)) {
    const char *at = block.data(), *const stop = at + n;
    while (at < stop) {
      const void* found = std::memchr(at, '\n', static_cast<std::size_t>(stop - at));
      const char* end = found == nullptr ? stop : static_cast<const char*>(found);
      quotes += count_bytes(at, static_cast<std::size_t>(end - at), '"');
      at = end + 1;
      if (found == nullptr || quotes % 2 != 0) continue;
      quotes = 0;
      if (--left < 0) {  // more rows than there should be
        starts.pop_back();
        return starts;
      }
      while (left == 0 && group < groups) {
        starts.push_back(place + static_cast<double>(at - block.data()));
        if (++group < groups) left = rows[group];
      }
    }
    place += static_cast<double>(n);
    Rcpp::checkUserInterrupt();
  }
  if (!starts.empty() && starts.back() != place) starts.pop_back();  // a last line without its end
  return starts;
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
    const int shift = 6 - tens(std::fabs(value));
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

// Where in a table's file every group of rows begins, which have so many rows each; the last number
// is where they end. One row that is not there, or is too much, and the numbers end before that:
// then there are fewer than groups. A line end between quotes is no row's end.
// [[Rcpp::export]]
Rcpp::NumericVector core_row_starts(const std::string& path, const Rcpp::IntegerVector& rows) {
  const Closed file(std::fopen(path.c_str(), "rb"));
  if (!file) return Rcpp::NumericVector(0);
  return Rcpp::wrap(row_starts(file.get(), rows.begin(), rows.size()));
}

// Puts some parts of a text file together in another: what went wrong, or "". A byte of zero is
// none of a text.
// [[Rcpp::export]]
std::string core_copy_text(const std::string& path, const Rcpp::NumericVector& from,
                           const Rcpp::NumericVector& to, const std::string& target) {
  const Closed file(std::fopen(path.c_str(), "rb"));
  Closed out(std::fopen(target.c_str(), "wb"));
  if (!file || !out) return std::strerror(errno);
  std::vector<char> block(std::size_t{1} << 20);
  for (R_xlen_t k = 0; k < from.size(); ++k) {
    if (!seek_to(file.get(), from[k])) return std::strerror(errno);
    for (double left = to[k] - from[k]; left > 0;) {
      const std::size_t n =
          static_cast<std::size_t>(std::min(left, static_cast<double>(block.size())));
      if (std::fread(block.data(), 1, n, file.get()) != n) return "it ends too early";
      if (std::memchr(block.data(), 0, n) != nullptr) return "it holds bytes of value zero";
      if (std::fwrite(block.data(), 1, n, out.get()) != n) return std::strerror(errno);
      left -= static_cast<double>(n);
    }
  }
  return std::fclose(out.release()) == 0 ? "" : std::strerror(errno);
}
