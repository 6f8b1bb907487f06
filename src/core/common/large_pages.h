// Fresh memory on large pages: a result of 128 MB is 32,768 small pages, and the first touch of
// each costs as much as computing what is written there.
#pragma once
#include <cstddef>
#include <cstdint>
#include <memory>
#ifdef __linux__
#include <sys/mman.h>
#endif

namespace bm {

// Only advice: where the system has none to give, nothing changes.
inline void use_large_pages(void* data, std::size_t bytes) {
#if defined(__linux__) && defined(MADV_HUGEPAGE)
  const std::uintptr_t page = 4096,
                       from = (reinterpret_cast<std::uintptr_t>(data) + page - 1) / page * page;
  const std::uintptr_t to = (reinterpret_cast<std::uintptr_t>(data) + bytes) / page * page;
  if (bytes >= std::size_t{1} << 22)
    madvise(reinterpret_cast<void*>(from), to - from, MADV_HUGEPAGE);
#else
  (void)data;
  (void)bytes;
#endif
}

// Room for n values, not zero-filled.
template <class T>
class Scratch {
 public:
  explicit Scratch(std::size_t n) : room_(new T[n]) { use_large_pages(room_.get(), n * sizeof(T)); }
  T* data() { return room_.get(); }
  const T* data() const { return room_.get(); }

 private:
  std::unique_ptr<T[]> room_;
};

}  // namespace bm
