// Pixels sorted by height in a time that grows with their number: a radix sort.
#pragma once
#include <algorithm>
#include <cstddef>
#include <cstdint>
#include <vector>

namespace bm {

struct Pixel {
  std::uint32_t low, at;  // how far below the top, in the order of heights; place
};

// Highest first; equal heights stay in the order they came in. `other` is room to work in.
inline void sort_by_height(std::vector<Pixel>& pixels, std::vector<Pixel>& other) {
  other.resize(pixels.size());
  std::uint32_t lowest = 0;
  for (const Pixel& p : pixels) lowest = std::max(lowest, p.low);
  const int digit = 11;
  for (int shift = 0; shift < 32 && (lowest >> shift) != 0; shift += digit) {
    const std::uint32_t values = std::min<std::uint32_t>((lowest >> shift) + 1, 1u << digit),
                        mask = (1u << digit) - 1;
    std::uint32_t start[(1u << digit) + 1];
    std::fill(start, start + values + 1, 0u);
    for (const Pixel& p : pixels) ++start[((p.low >> shift) & mask) + 1];
    for (std::uint32_t k = 0; k < values; ++k) start[k + 1] += start[k];
    for (const Pixel& p : pixels) other[start[(p.low >> shift) & mask]++] = p;
    pixels.swap(other);
  }
}

}  // namespace bm
