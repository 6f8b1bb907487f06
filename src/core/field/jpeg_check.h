// Is a JPEG stream whole? Decoders fill what is missing with grey and go on: here every code of
// every block is read (ITU-T T.81, sequential and progressive Huffman coding), no pixel made.
// Blocks too few or too many, codes that do not exist, coefficients beyond the last, restart
// markers out of order, brightness beyond what eight bits can give and scans that are missing are
// all damage. A few lost bytes within one block can still look like a block.
#pragma once
#include <algorithm>
#include <array>
#include <cstddef>
#include <cstdlib>
#include <cstdint>
#include <vector>

#include "jpeg_bits.h"

namespace bm {

class JpegCheck {
 public:
  int width = 0, height = 0, channels = 0;
  bool too_large = false;  // more pixels than asked for: not read

  explicit JpegCheck(double most_pixels) : most_pixels_(most_pixels) {}

  // A stream from its start marker to its end marker; `tables` holds no picture (as in the tag 347
  // of TIFF files).
  void read(const std::uint8_t* bytes, std::size_t n, bool tables = false) {
    const std::uint8_t* at = bytes;
    const std::uint8_t* end = bytes + n;
    if (n < 4 || at[0] != 0xff || at[1] != 0xd8)
      throw JpegDamage("it does not begin with a JPEG header");
    at += 2;
    while (true) {
      while (at + 1 < end && at[0] == 0xff && at[1] == 0xff) ++at;
      if (at + 1 >= end) throw JpegDamage("the file is cut short");
      if (at[0] != 0xff) throw JpegDamage("its header is damaged");
      const int marker = at[1];
      at += 2;
      if (marker == 0xd9) break;
      if (marker == 0x01) continue;
      if (at + 2 > end) throw JpegDamage("the file is cut short");
      const std::size_t length = word(at);
      if (length < 2 || length > static_cast<std::size_t>(end - at))
        throw JpegDamage("the file is cut short");
      at = segment(marker, at + 2, at + length, end);
      if (too_large) return;
    }
    if (!tables) check_complete();
  }

 private:
  struct Component {
    int id = 0, h = 1, v = 1, quantiser = 0;
    std::size_t across = 0, down = 0,
                stride = 0;  // blocks; `stride` with those that only fill whole units
    int last = 0;            // predicted DC
    int dc = 0, ac = 0;
    std::array<std::int8_t, 64> bits_left{};  // of every coefficient: -1 never sent
    std::vector<std::uint64_t> sent;  // progressive: which coefficients of a block are not zero
  };

  static std::size_t word(const std::uint8_t* p) {
    return static_cast<std::size_t>(p[0]) << 8 | p[1];
  }
  [[noreturn]] static void bad_header() { throw JpegDamage("its header is damaged"); }

  const std::uint8_t* segment(int marker, const std::uint8_t* at, const std::uint8_t* stop,
                              const std::uint8_t* end) {
    switch (marker) {
      case 0xdb:
        quantisers(at, stop);
        break;
      case 0xc4:
        codes(at, stop);
        break;
      case 0xdd:
        if (stop - at < 2) bad_header();
        restart_ = word(at);
        break;
      case 0xc0:
      case 0xc1:
      case 0xc2:
        frame(at, stop, marker == 0xc2);
        break;
      case 0xda:
        return scan(at, stop, end);
      case 0xc3:
      case 0xc5:
      case 0xc6:
      case 0xc7:
      case 0xc9:
      case 0xca:
      case 0xcb:
      case 0xcd:
      case 0xce:
      case 0xcf:
      case 0xcc:
        throw JpegDamage("it is coded in a way that is not read (lossless or arithmetic)");
      default:
        if (marker < 0xe0 && marker != 0xfe)
          bad_header();  // 0xe0 to 0xef and 0xfe: remarks of programs
    }
    return stop;
  }

  void quantisers(const std::uint8_t* at, const std::uint8_t* stop) {
    while (at < stop) {
      const int wide = *at >> 4, id = *at & 15;
      const std::size_t size = wide != 0 ? 128 : 64;
      if (id > 3 || wide > 1 || static_cast<std::size_t>(stop - at) < 1 + size) bad_header();
      quantiser_[static_cast<std::size_t>(id)] = wide != 0 ? static_cast<int>(word(at + 1)) : at[1];
      at += 1 + size;
    }
  }

  void codes(const std::uint8_t* at, const std::uint8_t* stop) {
    while (at < stop) {
      if (stop - at < 17) bad_header();
      const int kind = *at >> 4, id = *at & 15;
      std::size_t total = 0;
      for (int k = 1; k <= 16; ++k) total += at[k];
      if (kind > 1 || id > 3 || total > 256 || static_cast<std::size_t>(stop - at) < 17 + total)
        bad_header();
      codes_[static_cast<std::size_t>(kind)][static_cast<std::size_t>(id)].set(at + 1, at + 17);
      at += 17 + total;
    }
  }

  void frame(const std::uint8_t* at, const std::uint8_t* stop, bool progressive) {
    if (channels != 0 || stop - at < 6) bad_header();
    progressive_ = progressive;
    if (at[0] != 8) throw JpegDamage("it has more than 8 bits per colour, which is not read");
    height = static_cast<int>(word(at + 1));
    width = static_cast<int>(word(at + 3));
    channels = at[5];
    if (width == 0 || height == 0 || channels == 0 || channels > 4 || stop - at != 6 + 3 * channels)
      bad_header();
    if (static_cast<double>(width) * height > most_pixels_) {
      too_large = true;
      return;
    }
    components_.resize(static_cast<std::size_t>(channels));
    h_ = v_ = 1;
    for (std::size_t k = 0; k < components_.size(); ++k) {
      Component& c = components_[k];
      c.id = at[6 + 3 * k];
      c.h = at[7 + 3 * k] >> 4;
      c.v = at[7 + 3 * k] & 15;
      c.quantiser = at[8 + 3 * k];
      if (c.h < 1 || c.h > 4 || c.v < 1 || c.v > 4 || c.quantiser > 3) bad_header();
      c.bits_left.fill(-1);
      h_ = std::max(h_, c.h);
      v_ = std::max(v_, c.v);
    }
    const std::size_t units_across = whole(width, 8 * h_), units_down = whole(height, 8 * v_);
    for (Component& c : components_) {
      c.across = whole(static_cast<int>(whole(width * c.h, h_)), 8);
      c.down = whole(static_cast<int>(whole(height * c.v, v_)), 8);
      c.stride = units_across * static_cast<std::size_t>(c.h);
      if (progressive_) c.sent.assign(c.stride * units_down * static_cast<std::size_t>(c.v), 0);
    }
  }

  static std::size_t whole(int a, int b) {
    return (static_cast<std::size_t>(a) + static_cast<std::size_t>(b) - 1) /
           static_cast<std::size_t>(b);
  }

  const std::uint8_t* scan(const std::uint8_t* at, const std::uint8_t* stop,
                           const std::uint8_t* end) {
    if (components_.empty() || stop - at < 1) bad_header();
    const std::size_t n = at[0];
    if (n < 1 || n > components_.size() || static_cast<std::size_t>(stop - at) != 4 + 2 * n)
      bad_header();
    std::vector<Component*> taken;
    for (std::size_t k = 0; k < n; ++k) {
      auto of = std::find_if(components_.begin(), components_.end(),
                             [&](const Component& c) { return c.id == at[1 + 2 * k]; });
      if (of == components_.end()) bad_header();
      of->dc = at[2 + 2 * k] >> 4;
      of->ac = at[2 + 2 * k] & 15;
      if (of->dc > 3 || of->ac > 3) bad_header();
      taken.push_back(&*of);
    }
    from_ = at[1 + 2 * n];
    to_ = at[2 + 2 * n];
    high_ = at[3 + 2 * n] >> 4;
    low_ = at[3 + 2 * n] & 15;
    if (!progressive_) {
      from_ = 0;
      to_ = 63;
      high_ = low_ = 0;
    }
    if (to_ > 63 || from_ > to_ || (progressive_ && (from_ == 0) != (to_ == 0)) ||
        (from_ > 0 && n > 1))
      bad_header();
    for (Component* c : taken) note_progress(*c);
    return blocks(taken, stop, end);
  }

  // Every coefficient is sent once, then bit by bit.
  void note_progress(Component& c) const {
    for (int k = from_; k <= to_; ++k) {
      std::int8_t& left = c.bits_left[static_cast<std::size_t>(k)];
      if (high_ == 0 ? left != -1 : (left != high_ || low_ != high_ - 1))
        throw JpegDamage("its scans are out of order");
      left = static_cast<std::int8_t>(low_);
    }
  }

  const std::uint8_t* blocks(const std::vector<Component*>& taken, const std::uint8_t* at,
                             const std::uint8_t* end) {
    const bool alone = taken.size() == 1;
    const std::size_t across = alone ? taken[0]->across : whole(width, 8 * h_);
    const std::size_t down = alone ? taken[0]->down : whole(height, 8 * v_);
    JpegBits bits(at, end);
    run_ = 0;
    for (Component* c : taken) c->last = 0;
    std::size_t done = 0;
    int marker = 0;
    for (std::size_t y = 0; y < down; ++y) {
      for (std::size_t x = 0; x < across; ++x, ++done) {
        if (restart_ > 0 && done > 0 && done % restart_ == 0) {
          const std::uint8_t* next = finish(bits);
          if (next[1] != 0xd0 + marker) throw JpegDamage("its restart marks are out of order");
          marker = (marker + 1) % 8;
          bits = JpegBits(next + 2, end);
          for (Component* c : taken) c->last = 0;
        }
        if (alone) {
          block(*taken[0], bits, y * taken[0]->stride + x);
          continue;
        }
        for (Component* c : taken) {
          const std::size_t h = static_cast<std::size_t>(c->h), v = static_cast<std::size_t>(c->v);
          for (std::size_t j = 0; j < v; ++j)
            for (std::size_t i = 0; i < h; ++i)
              block(*c, bits, (y * v + j) * c->stride + x * h + i);
        }
      }
    }
    return finish(bits);
  }

  const std::uint8_t* finish(JpegBits& bits) const {
    if (run_ != 0) throw JpegDamage("some of its data are missing");
    return bits.finish();
  }

  void block(Component& c, JpegBits& bits, std::size_t place) {
    if (!progressive_) {
      dc_first(c, bits);
      ac_sequential(c, bits);
    } else if (from_ == 0) {
      if (high_ == 0)
        dc_first(c, bits);
      else
        bits.drop(1);
    } else if (high_ == 0) {
      ac_first(c, bits, c.sent[place]);
    } else {
      ac_refine(c, bits, c.sent[place]);
    }
  }

  const JpegCodes& dc_codes(const Component& c) const {
    return known(codes_[0][static_cast<std::size_t>(c.dc)]);
  }
  const JpegCodes& ac_codes(const Component& c) const {
    return known(codes_[1][static_cast<std::size_t>(c.ac)]);
  }
  static const JpegCodes& known(const JpegCodes& codes) {
    if (!codes.known) throw JpegDamage("its code tables are missing");
    return codes;
  }
  [[noreturn]] static void impossible() {
    throw JpegDamage("its data hold values that no picture has");
  }

  void dc_first(Component& c, JpegBits& bits) {
    const int size = dc_codes(c).next(bits);
    if (size > 11) impossible();
    if (size > 0) {
      const int value = static_cast<int>(bits.take(size));
      c.last += value < 1 << (size - 1) ? value - (1 << size) + 1 : value;
    }
    // eight times the mean of a block, -128 to 127; two steps of quantisation for encoders that
    // round freely
    const int step = quantiser_[static_cast<std::size_t>(c.quantiser)] << low_;
    if (std::abs(c.last * step) > 1024 + 2 * step) impossible();
  }

  void ac_sequential(const Component& c, JpegBits& bits) const {
    const JpegCodes& codes = ac_codes(c);
    for (int k = 1; k < 64; ++k) {
      const int symbol = codes.next(bits), run = symbol >> 4, size = symbol & 15;
      if (size == 0) {
        if (run == 0) return;
        if (run != 15) impossible();
        k += 15;
        if (k > 63) impossible();
        continue;
      }
      k += run;
      if (k > 63 || size > 10) impossible();
      bits.drop(size);
    }
  }

  void ac_first(const Component& c, JpegBits& bits, std::uint64_t& sent) {
    if (run_ > 0) {
      --run_;
      return;
    }
    const JpegCodes& codes = ac_codes(c);
    for (int k = from_; k <= to_; ++k) {
      const int symbol = codes.next(bits), run = symbol >> 4, size = symbol & 15;
      if (size == 0) {
        if (run < 15) {
          run_ = (std::uint32_t{1} << run) - 1 + bits.take(run);
          return;
        }
        k += 15;
        if (k > to_) impossible();
        continue;
      }
      k += run;
      if (k > to_ || size > 10) impossible();
      bits.drop(size);
      sent |= std::uint64_t{1} << k;
    }
  }

  void ac_refine(const Component& c, JpegBits& bits, std::uint64_t& sent) {
    int k = from_;
    if (run_ == 0) {
      const JpegCodes& codes = ac_codes(c);
      for (; k <= to_; ++k) {
        const int symbol = codes.next(bits), size = symbol & 15;
        int run = symbol >> 4;
        if (size > 1) impossible();
        if (size == 1) bits.drop(1);
        if (size == 0 && run < 15) {
          run_ = (std::uint32_t{1} << run) + bits.take(run);
          break;
        }
        for (; k <= to_; ++k) {  // over `run` zeros; what is not zero has a bit of its own
          if (sent >> k & 1)
            bits.drop(1);
          else if (run-- == 0)
            break;
        }
        if (k > to_) {
          if (size == 1) impossible();
          break;
        }
        if (size == 1) sent |= std::uint64_t{1} << k;
      }
    }
    if (run_ > 0) {
      for (; k <= to_; ++k)
        if (sent >> k & 1) bits.drop(1);
      --run_;
    }
  }

  void check_complete() const {
    if (components_.empty()) throw JpegDamage("it has no picture header");
    for (const Component& c : components_)
      for (const std::int8_t left : c.bits_left)
        if (left != 0) throw JpegDamage("some of its data are missing");
  }

  double most_pixels_;
  bool progressive_ = false;
  std::size_t restart_ = 0;
  std::array<int, 4> quantiser_{1, 1, 1, 1};
  std::array<std::array<JpegCodes, 4>, 2> codes_;
  std::vector<Component> components_;
  int h_ = 1, v_ = 1, from_ = 0, to_ = 63, high_ = 0, low_ = 0;
  std::uint32_t run_ = 0;
};

}  // namespace bm
