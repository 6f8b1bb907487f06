// Masks of pictures that are never in memory as a whole, held as bits.
#include "glue.h"

#include "core/disk/bit_window.h"
#include "core/disk/parts.h"
#include "core/mask/fill.h"
#include "core/mask/morphology.h"

namespace {
typedef Rcpp::XPtr<bm::BitPlane> Bits;
std::size_t number(int n) { return static_cast<std::size_t>(n); }

// Windows are checked: a wrong one would write where nothing is.
void check_window(const bm::BitPlane& bits, int top, int left, int rows, int cols) {
  const bool good = top >= 0 && left >= 0 && rows >= 0 && cols >= 0 &&
                    number(top) + number(rows) <= bits.rows &&
                    number(left) + number(cols) <= bits.cols;
  if (!good) Rcpp::stop("a window beyond the mask");
}
}  // namespace

// [[Rcpp::export]]
SEXP core_bits(int rows, int cols) { return Bits(new bm::BitPlane(number(rows), number(cols))); }

// [[Rcpp::export]]
SEXP core_bits_copy(SEXP bits) { return Bits(new bm::BitPlane(*Bits(bits))); }

// [[Rcpp::export]]
Rcpp::LogicalMatrix core_bits_read(SEXP bits, int top, int left, int rows, int cols) {
  const Bits from(bits);
  check_window(*from, top, left, rows, cols);
  Rcpp::LogicalMatrix out = fresh<Rcpp::LogicalMatrix>(rows, cols);
  bm::read_window(*from, number(top), number(left), writable(out));
  return out;
}

// `rows` x `cols` of the pixels, from the row and the column after those skipped on.
// [[Rcpp::export]]
void core_bits_write(SEXP bits, int top, int left, const Rcpp::LogicalMatrix& pixels, int skip_rows,
                     int skip_cols, int rows, int cols, bool add) {
  const Bits to(bits);
  check_window(*to, top, left, rows, cols);
  if (skip_rows < 0 || skip_cols < 0 || skip_rows + rows > pixels.nrow() ||
      skip_cols + cols > pixels.ncol())
    Rcpp::stop("a window beyond the pixels");
  bm::write_window(*to, number(top), number(left), plane(pixels), number(skip_rows),
                   number(skip_cols), number(rows), number(cols), add);
}

// [[Rcpp::export]]
double core_bits_count(SEXP bits) { return bm::count(*Bits(bits)); }

// Of these, the mask is changed, and how many pixels more or fewer it has is returned.

// [[Rcpp::export]]
double core_bits_fill(SEXP bits, double largest) { return bm::fill_holes(*Bits(bits), largest); }

// [[Rcpp::export]]
double core_bits_drop(SEXP bits, double least) { return bm::drop_parts(*Bits(bits), least); }

// How many parts without a mark went.
// [[Rcpp::export]]
double core_bits_keep_marked(SEXP bits, SEXP marks) {
  return bm::keep_marked(*Bits(bits), *Bits(marks));
}

// [[Rcpp::export]]
void core_bits_flip(SEXP bits) { bm::complement(*Bits(bits)); }

// [[Rcpp::export]]
void core_bits_without(SEXP bits, SEXP other) {
  const Bits from(bits), gone(other);
  for (std::size_t k = 0; k < from->data.size(); ++k) from->data[k] &= ~gone->data[k];
}

// Row and column (from 1) of the first pixel of each label in reading order; 0 for one that has
// none.
// [[Rcpp::export]]
Rcpp::List core_first_pixels(const Rcpp::IntegerMatrix& labels, int count) {
  Rcpp::IntegerVector row(count), col(count);
  const bm::Plane<const int> p = plane(labels);
  for (std::size_t x = 0; x < p.cols; ++x) {
    int before = 0;
    for (std::size_t y = 0; y < p.rows; ++y) {
      const int label = p.col(x)[y];
      if (label > 0 && label <= count && label != before) {
        const int here = static_cast<int>(y) + 1;
        if (row[label - 1] == 0 || here < row[label - 1]) {
          row[label - 1] = here;
          col[label - 1] = static_cast<int>(x) + 1;
        }
      }
      before = label;
    }
  }
  return Rcpp::List::create(Rcpp::Named("row") = row, Rcpp::Named("col") = col);
}

// The parts in reading order: box from top, left to bottom, right (counted from 1), column of the
// first pixel, number of pixels.
// [[Rcpp::export]]
Rcpp::List core_bits_parts(SEXP bits) {
  const std::vector<bm::Part> parts = bm::Parts(*Bits(bits)).all();
  const R_xlen_t n = static_cast<R_xlen_t>(parts.size());
  Rcpp::IntegerVector top(n), left(n), bottom(n), right(n), first(n);
  Rcpp::NumericVector area(n);
  for (R_xlen_t k = 0; k < n; ++k) {
    const bm::Part& p = parts[static_cast<std::size_t>(k)];
    top[k] = p.top + 1;
    left[k] = p.left + 1;
    bottom[k] = p.bottom + 1;
    right[k] = p.right + 1;
    first[k] = p.first_col + 1;
    area[k] = p.area;
  }
  return Rcpp::List::create(Rcpp::Named("top") = top, Rcpp::Named("left") = left,
                            Rcpp::Named("bottom") = bottom, Rcpp::Named("right") = right,
                            Rcpp::Named("first") = first, Rcpp::Named("area") = area);
}
