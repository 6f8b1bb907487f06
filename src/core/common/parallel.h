// Columns of a picture shared among threads. Every column comes out the same whoever computes it,
// so results do not depend on the number of threads.
#pragma once
#include <algorithm>
#include <atomic>
#include <chrono>
#include <condition_variable>
#include <cstddef>
#include <exception>
#include <mutex>
#include <system_error>
#include <thread>
#include <vector>

namespace bm {

// What stops the other threads once one has failed, or the user has interrupted: they meet it where
// they would pause.
struct Stopped {};

// Calls work(first, last, pause) for stretches of columns. `interrupted` looks for the user's
// interrupt, on the calling thread only, and throws; it is asked wherever that thread pauses, and
// while it waits for the others. `block`: stretches begin at multiples of it, so that running sums
// begin at the same places always. Where a thread cannot be had, the calling one does its share.
template <class Work, class Interrupt>
void over_columns(std::size_t cols, int threads, std::size_t block, Work work,
                  Interrupt interrupted) {
  const std::size_t blocks = (cols + block - 1) / block;
  const std::size_t workers = std::min<std::size_t>(static_cast<std::size_t>(std::max(threads, 1)),
                                                    std::max<std::size_t>(blocks, 1));
  if (workers == 1) return work(std::size_t{0}, cols, interrupted);
  auto edge = [&](std::size_t k) { return std::min(cols, blocks * k / workers * block); };
  std::atomic<bool> stop{false};
  std::exception_ptr failed;
  std::size_t running = 0;
  std::mutex door;
  std::condition_variable left;
  auto note = [&] {
    const std::lock_guard<std::mutex> hold(door);
    if (!failed) failed = std::current_exception();
    stop = true;
  };
  auto share = [&](std::size_t k) {
    try {
      work(edge(k), edge(k + 1), [&] {
        if (stop) throw Stopped();
      });
    } catch (const Stopped&) {
    } catch (...) { note(); }
    const std::lock_guard<std::mutex> hold(door);
    --running;
    left.notify_one();
  };
  std::vector<std::thread> others;
  others.reserve(workers);
  std::size_t started = 1;
  for (; started < workers; ++started) {
    {
      const std::lock_guard<std::mutex> hold(door);
      ++running;
    }
    try {
      others.emplace_back(share, started);
    } catch (const std::system_error&) {
      const std::lock_guard<std::mutex> hold(door);
      --running;
      break;
    }
  }
  auto pause = [&] {
    if (stop) throw Stopped();
    interrupted();
  };
  try {
    work(edge(0), edge(1), pause);
    for (; started < workers; ++started) work(edge(started), edge(started + 1), pause);
    std::unique_lock<std::mutex> hold(door);
    while (running > 0) {
      left.wait_for(hold, std::chrono::milliseconds(50));
      hold.unlock();
      pause();
      hold.lock();
    }
  } catch (const Stopped&) {
  } catch (...) { note(); }
  for (std::thread& t : others) t.join();
  if (failed) std::rethrow_exception(failed);
}

}  // namespace bm
