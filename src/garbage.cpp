// When R looks for garbage.
#include "glue.h"

// R collects garbage when its vectors reach a limit, which grows to what is asked for at once. Raw
// vectors are not filled, so that these bytes are never touched.
// [[Rcpp::export]]
void core_widen_heap(double bytes) { Rf_allocVector(RAWSXP, static_cast<R_xlen_t>(bytes)); }
