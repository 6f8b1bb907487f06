// When R looks for garbage, and what becomes of the memory then.
#include "glue.h"
#if defined(__GLIBC__)
#include <malloc.h>
#endif

// R collects garbage when its vectors reach a limit, which grows to what is asked for at once. Raw
// vectors are not filled, so that these bytes are never touched. As much freed memory is kept: to
// give it back to the system and have it cleared again takes as long as to filter a picture.
// [[Rcpp::export]]
void core_widen_heap(double bytes) {
#if defined(__GLIBC__)
  mallopt(M_MMAP_THRESHOLD, 1 << 25);  // the greatest there is
  mallopt(M_TRIM_THRESHOLD, static_cast<int>(bytes));
#endif
  Rf_allocVector(RAWSXP, static_cast<R_xlen_t>(bytes));
}
