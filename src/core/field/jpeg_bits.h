// Bits and Huffman codes of a JPEG stream (ITU-T T.81, annexes B.2 and F.2.2).
#pragma once
#include <array>
#include <cstddef>
#include <cstdint>
#include <stdexcept>

namespace bm {

// What is wrong with a stream, in words.
struct JpegDamage : std::runtime_error {
  using std::runtime_error::runtime_error;
};

// The bits between two markers; asking for more than there are is damage.
class JpegBits {
 public:
  JpegBits(const std::uint8_t* at, const std::uint8_t* end) : at_(at), end_(end) {}

  int bit() { return static_cast<int>(take(1)); }

  std::uint32_t take(int n) {
    if (n == 0) return 0;
    need(n);
    held_ -= n;
    return static_cast<std::uint32_t>(store_ >> held_) & ((std::uint32_t{1} << n) - 1);
  }

  // The next 16 bits, zeros where the stream has ended.
  std::uint32_t peek16() {
    fill();
    if (held_ >= 16) return static_cast<std::uint32_t>(store_ >> (held_ - 16)) & 0xffff;
    return static_cast<std::uint32_t>(store_ << (16 - held_)) & 0xffff;
  }

  void drop(int n) {
    need(n);
    held_ -= n;
  }

  // The rest of the last byte is padding; where the stream goes on: at a marker, or it has bytes
  // too many.
  const std::uint8_t* finish() {
    if (held_ >= 8) throw JpegDamage("there are more data than the picture needs");
    const std::uint8_t* next = at_;
    while (next + 1 < end_ && next[0] == 0xff && next[1] == 0xff) ++next;
    if (next + 1 >= end_) throw JpegDamage("the file is cut short");
    if (next[0] != 0xff || next[1] == 0)
      throw JpegDamage("there are more data than the picture needs");
    return next;
  }

 private:
  void fill() {
    while (held_ <= 48 && at_ < end_) {
      std::uint8_t byte = *at_;
      if (byte == 0xff) {
        if (at_ + 1 >= end_ || at_[1] != 0) return;  // a marker
        ++at_;
      }
      ++at_;
      store_ = store_ << 8 | byte;
      held_ += 8;
    }
  }
  void need(int n) {
    if (held_ < n) fill();
    if (held_ < n) throw JpegDamage("some of its data are missing");
  }

  const std::uint8_t* at_;
  const std::uint8_t* end_;
  std::uint64_t store_ = 0;
  int held_ = 0;
};

// Codes of at most nine bits are looked up, longer ones counted through.
class JpegCodes {
 public:
  bool known = false;

  void set(const std::uint8_t* counts, const std::uint8_t* symbols) {
    short_.fill(0);
    std::uint32_t code = 0;
    int used = 0;
    for (int length = 1; length <= 16; ++length) {
      first_[length] = code;
      offset_[length] = used;
      count_[length] = counts[length - 1];
      for (int k = 0; k < counts[length - 1]; ++k, ++code, ++used) {
        symbol_[used] = symbols[used];
        if (length > quick) continue;
        const std::uint32_t from = code << (quick - length);
        if (from >= short_.size()) throw JpegDamage("its code tables are damaged");
        for (std::uint32_t i = 0; i < std::uint32_t{1} << (quick - length); ++i)
          short_[from + i] = static_cast<std::uint16_t>(length << 8 | symbols[used]);
      }
      if (code > std::uint32_t{1} << length) throw JpegDamage("its code tables are damaged");
      code <<= 1;
    }
    known = true;
  }

  int next(JpegBits& bits) const {
    const std::uint32_t ahead = bits.peek16();
    const std::uint16_t found = short_[ahead >> (16 - quick)];
    if (found != 0) {
      bits.drop(found >> 8);
      return found & 0xff;
    }
    for (int length = quick + 1; length <= 16; ++length) {
      const std::uint32_t code = ahead >> (16 - length);
      if (code - first_[length] < count_[length] && code >= first_[length]) {
        bits.drop(length);
        return symbol_[static_cast<std::size_t>(offset_[length]) + code - first_[length]];
      }
    }
    bits.drop(16);  // where the stream has ended, that is what is wrong
    throw JpegDamage("its data hold codes that do not exist");
  }

 private:
  static constexpr int quick = 9;
  std::array<std::uint16_t, 1 << quick> short_{};
  std::array<std::uint32_t, 17> first_{}, count_{};
  std::array<int, 17> offset_{};
  std::array<std::uint8_t, 256> symbol_{};
};

}  // namespace bm
