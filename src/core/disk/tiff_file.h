// A TIFF or BigTIFF file read part by part with the system's libtiff: grey or colour of 8 or 16
// bits, in tiles or strips. The layout is checked before (field-read-tiff-layout.R).
#pragma once
#include <algorithm>
#include <cstdarg>
#include <cstdint>
#include <cstdio>
#include <stdexcept>
#include <string>
#include <vector>

#include <tiffio.h>

#include "../common/plane.h"
#include "../field/grey.h"

namespace bm {

// libtiff says what is wrong to one function for all files; here it becomes an error.
class TiffMessages {
 public:
  TiffMessages() : errors_(TIFFSetErrorHandler(keep)), warnings_(TIFFSetWarningHandler(nullptr)) {
    last().clear();
  }
  ~TiffMessages() {
    TIFFSetErrorHandler(errors_);
    TIFFSetWarningHandler(warnings_);
  }
  [[noreturn]] void fail(const std::string& otherwise) const {
    throw std::runtime_error(last().empty() ? otherwise : last());
  }

 private:
  static std::string& last() {
    static std::string message;
    return message;
  }
  static void keep(const char*, const char* format, va_list values) {
    char text[400];
    std::vsnprintf(text, sizeof text, format, values);
    last() = text;
  }
  TIFFErrorHandler errors_, warnings_;
};

class TiffFile {
 public:
  // `page` from 0; `weights` of red, green and blue.
  TiffFile(const std::string& path, int page, std::vector<double> weights)
      : weights_(std::move(weights)) {
    const TiffMessages messages;
    // "m": the file is not mapped into memory, whose use would seem to be the file's size
    file_ = TIFFOpen(path.c_str(), "rm");
    if (file_ == nullptr) messages.fail("it cannot be opened");
    std::uint16_t samples = 1, bits = 1, photometric = PHOTOMETRIC_MINISBLACK;
    bool good = TIFFSetDirectory(file_, static_cast<tdir_t>(page)) != 0;
    good = good && TIFFGetField(file_, TIFFTAG_IMAGEWIDTH, &width_) &&
           TIFFGetField(file_, TIFFTAG_IMAGELENGTH, &height_);
    TIFFGetFieldDefaulted(file_, TIFFTAG_SAMPLESPERPIXEL, &samples);
    TIFFGetFieldDefaulted(file_, TIFFTAG_BITSPERSAMPLE, &bits);
    TIFFGetField(file_, TIFFTAG_PHOTOMETRIC, &photometric);
    samples_ = samples;
    bytes_ = bits / 8u;
    inverted_ = photometric == PHOTOMETRIC_MINISWHITE;
    tiled_ = TIFFIsTiled(file_) != 0;
    if (tiled_) {
      good = good && TIFFGetField(file_, TIFFTAG_TILEWIDTH, &tile_cols_) &&
             TIFFGetField(file_, TIFFTAG_TILELENGTH, &tile_rows_) && tile_cols_ > 0 &&
             tile_rows_ > 0;
    } else {
      TIFFGetFieldDefaulted(file_, TIFFTAG_ROWSPERSTRIP, &strip_rows_);
      strip_rows_ = std::clamp<std::uint32_t>(strip_rows_, 1, std::max<std::uint32_t>(height_, 1));
    }
    if (!good || (bits != 8 && bits != 16) || samples < 1) {
      TIFFClose(file_);
      messages.fail("its layout is not read part by part");
    }
  }
  ~TiffFile() { TIFFClose(file_); }
  TiffFile(const TiffFile&) = delete;
  TiffFile& operator=(const TiffFile&) = delete;

  std::size_t width() const { return width_; }
  std::size_t height() const { return height_; }

  // The pixels from (top, left) on, as many as `to` has.
  void read(std::size_t top, std::size_t left, Plane<double> to) {
    const TiffMessages messages;
    if (tiled_)
      read_tiles(messages, top, left, to);
    else
      read_strips(messages, top, left, to);
  }

 private:
  void read_tiles(const TiffMessages& messages, std::size_t top, std::size_t left,
                  Plane<double> to) {
    const std::size_t tr = tile_rows_, tc = tile_cols_, line = tc * pixel_bytes();
    std::vector<unsigned char> tile(static_cast<std::size_t>(TIFFTileSize(file_)));
    if (tile.size() < tr * line) messages.fail("its tiles are too small");
    for (std::size_t y = top / tr * tr; y < top + to.rows; y += tr) {
      for (std::size_t x = left / tc * tc; x < left + to.cols; x += tc) {
        const auto at = TIFFComputeTile(file_, static_cast<std::uint32_t>(x),
                                        static_cast<std::uint32_t>(y), 0, 0);
        if (TIFFReadEncodedTile(file_, at, tile.data(), static_cast<tmsize_t>(tile.size())) < 0)
          messages.fail("a tile of it cannot be read");
        const std::size_t y0 = std::max(y, top), y1 = std::min(y + tr, top + to.rows),
                          x0 = std::max(x, left), x1 = std::min(x + tc, left + to.cols);
        put(tile.data() + (y0 - y) * line + (x0 - x) * pixel_bytes(), line, y1 - y0, x1 - x0, to,
            y0 - top, x0 - left);
      }
    }
  }

  // Strips are as wide as the picture: rows that were read are kept for the windows beside this one
  // and the next ones below, which need a part of them again.
  void read_strips(const TiffMessages& messages, std::size_t top, std::size_t left,
                   Plane<double> to) {
    const std::size_t line = static_cast<std::size_t>(TIFFScanlineSize(file_)), end = top + to.rows;
    if (line < width_ * pixel_bytes()) messages.fail("its rows are too short");
    if (top < kept_top_ || top > kept_end_) {
      kept_.clear();
      kept_top_ = kept_end_ = top;
    }
    if (end > kept_end_) {  // rows above the window are not asked for again
      kept_.erase(kept_.begin(), kept_.begin() + static_cast<ptrdiff_t>((top - kept_top_) * line));
      kept_top_ = top;
      kept_.resize((end - top) * line);
      for (; kept_end_ < end; ++kept_end_)
        read_row(messages, kept_end_, kept_.data() + (kept_end_ - top) * line);
    }
    put(kept_.data() + (top - kept_top_) * line + left * pixel_bytes(), line, to.rows, to.cols, to,
        0, 0);
  }

  // Packed strips are read from their beginning only.
  void read_row(const TiffMessages& messages, std::size_t row, unsigned char* to) {
    const std::size_t strip = row / strip_rows_ * strip_rows_;
    if (next_row_ > row || next_row_ < strip) next_row_ = strip;
    for (; next_row_ <= row; ++next_row_)
      if (TIFFReadScanline(file_, to, static_cast<std::uint32_t>(next_row_), 0) < 0)
        messages.fail("a strip of it cannot be read");
  }

  std::size_t pixel_bytes() const { return samples_ * bytes_; }

  void put(const unsigned char* from, std::size_t line, std::size_t rows, std::size_t cols,
           Plane<double> to, std::size_t top, std::size_t left) const {
    if (bytes_ == 1)
      put_as<std::uint8_t>(from, line, rows, cols, to, top, left);
    else
      put_as<std::uint16_t>(from, line, rows, cols, to, top, left);
  }

  // Lines become columns: patches of 16 columns by 64 rows fit the nearest cache, and write long
  // runs of few columns at a time.
  template <class T>
  void put_as(const unsigned char* from, std::size_t line, std::size_t rows, std::size_t cols,
              Plane<double> to, std::size_t top, std::size_t left) const {
    constexpr std::size_t wide = 16, high = 64;
    for (std::size_t y0 = 0; y0 < rows; y0 += high) {
      const std::size_t y1 = std::min(rows, y0 + high);
      for (std::size_t x0 = 0; x0 < cols; x0 += wide) {
        for (std::size_t x = x0; x < std::min(cols, x0 + wide); ++x) {
          double* column = to.col(left + x) + top;
          const unsigned char* at = from + x * pixel_bytes();
          for (std::size_t y = y0; y < y1; ++y)
            column[y] = grey_of(reinterpret_cast<const T*>(at + y * line));
        }
      }
    }
  }

  template <class T>
  double grey_of(const T* pixel) const {
    const double grey =
        samples_ < 3
            ? pixel[0]
            : nearest(weights_[0] * pixel[0] + weights_[1] * pixel[1] + weights_[2] * pixel[2]);
    return inverted_ ? (sizeof(T) == 1 ? 255 : 65535) - grey : grey;
  }

  TIFF* file_;
  std::vector<double> weights_;
  std::uint32_t width_ = 0, height_ = 0, tile_cols_ = 0, tile_rows_ = 0, strip_rows_ = 1;
  std::size_t samples_ = 1, bytes_ = 1;
  bool inverted_ = false, tiled_ = false;
  std::vector<unsigned char> kept_;  // rows kept_top_ .. kept_end_ - 1
  std::size_t kept_top_ = 0, kept_end_ = 0;
  std::size_t next_row_ = 0;  // that libtiff would read without a jump
};

}  // namespace bm
