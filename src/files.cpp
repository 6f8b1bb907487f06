// A file written so that a full disk is noticed: every step is asked whether it went well, and the
// bytes are on the disk before anything is renamed. R's own connections say nothing of a write that
// failed.
#include <cerrno>
#include <cstdio>
#include <cstring>
#include <string>
#ifdef _WIN32
#include <io.h>
#else
#include <unistd.h>
#endif

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
