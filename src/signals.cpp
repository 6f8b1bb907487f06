// SIGTERM ends a program at once and leaves its staging behind: it is turned into the interrupt
// that R unwinds from.
#include <csignal>

#include <Rcpp.h>

namespace {
volatile std::sig_atomic_t terminated = 0;
#ifndef _WIN32
void (*before)(int) = SIG_DFL;
void on_termination(int) {
  terminated = 1;
  std::raise(SIGINT);
}
#endif
}  // namespace

// [[Rcpp::export]]
void core_watch_termination(bool watch) {
#ifndef _WIN32
  if (watch) {
    terminated = 0;
    before = std::signal(SIGTERM, on_termination);
  } else {
    std::signal(SIGTERM, before);
  }
#endif
}

// [[Rcpp::export]]
bool core_was_terminated() { return terminated != 0; }
