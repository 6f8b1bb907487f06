// Columns of a picture shared among threads. Every column comes out the same whoever computes it, so results do not
// depend on the number of threads.
#pragma once
#include <algorithm>
#include <cstddef>
#include <exception>
#include <thread>
#include <vector>

namespace bm {

// Calls work(first, last, pause) for stretches of columns; `pause` looks for the user's interrupt, on the calling
// thread only. `block`: stretches begin at multiples of it, so that running sums begin at the same places always.
template <class Work, class Interrupt>
void over_columns(std::size_t cols, int threads, std::size_t block, Work work, Interrupt pause) {
  const std::size_t blocks = (cols + block - 1) / block;
  const std::size_t workers = std::min<std::size_t>(static_cast<std::size_t>(std::max(threads, 1)), std::max<std::size_t>(blocks, 1));
  auto edge = [&](std::size_t k) { return std::min(cols, blocks * k / workers * block); };
  std::vector<std::exception_ptr> failed(workers);
  std::vector<std::thread> others;
  for (std::size_t k = 1; k < workers; ++k) {
    others.emplace_back([&, k] {
      try {
        work(edge(k), edge(k + 1), [] {});
      } catch (...) {
        failed[k] = std::current_exception();
      }
    });
  }
  try {
    work(edge(0), edge(1), pause);
  } catch (...) {
    failed[0] = std::current_exception();
  }
  for (std::thread& t : others) t.join();
  for (const std::exception_ptr& e : failed)
    if (e) std::rethrow_exception(e);
}

}  // namespace bm
