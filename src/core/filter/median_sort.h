// Median of small square windows by sorting networks on lanes of pixels.
// Columns of the window are sorted once and shared by the windows that overlap them; of the
// row- and column-sorted window only the few ranks that can be the median are looked at.
#pragma once
#include <cstdint>
#include <cstring>
#include <vector>

#include "../common/plane.h"
#include "../common/speed.h"

namespace bm {

template <class T>
struct Lane {
  typedef T type __attribute__((vector_size(32)));
  static constexpr std::size_t count = 32 / sizeof(T);
};

template <class V>
BM_INLINE void order(V& a, V& b) {
  const V low = a < b ? a : b;
  b = a < b ? b : a;
  a = low;
}

template <int N, class V>
BM_INLINE void sort_values(V* v) {
  BM_UNROLL for (int i = 1; i < N; ++i) {
    BM_UNROLL for (int j = i; j > 0; --j) order(v[j - 1], v[j]);
  }
}

// After sorting the columns and then the rows of an N x N window, at least a*b - 1 values are no
// larger than the one at rank (a, b); so it can only be the median if a*b <= (N*N + 1) / 2, and
// likewise from the other end.
template <int N>
constexpr bool may_be_median(int a, int b) {
  return a * b <= (N * N + 1) / 2 && (N + 1 - a) * (N + 1 - b) <= (N * N + 1) / 2;
}

template <int N>
constexpr int candidate_count() {
  int n = 0;
  for (int a = 1; a <= N; ++a)
    for (int b = 1; b <= N; ++b) n += may_be_median<N>(a, b) ? 1 : 0;
  return n;
}

// Middle of K values: repeatedly drop the smallest and the largest of the first K/2 + 2 and take in
// the next.
template <int K, int First = 0, int Last = K / 2 + 1, int Next = K / 2 + 2, class V>
BM_INLINE void middle_of(V* c, V& middle) {
  if constexpr (First >= Last) {
    middle = c[Last];
  } else {
    BM_UNROLL for (int i = First + 1; i <= Last; ++i) order(c[First], c[i]);
    BM_UNROLL for (int i = First + 1; i < Last; ++i) order(c[i], c[Last]);
    if constexpr (Next < K) {
      c[Last] = c[Next];
      middle_of<K, First + 1, Last, Next + 1>(c, middle);
    } else {
      middle_of<K, First + 1, Last - 1, Next>(c, middle);
    }
  }
}

// to[k][y] = the k-th smallest of from[0][y] .. from[N - 1][y], for whole lanes up to n.
template <int N, class T>
BM_CLONES void sort_columns(const T* const* from, T* const* to, std::size_t n) {
  typedef typename Lane<T>::type V;
  for (std::size_t y = 0; y < n; y += Lane<T>::count) {
    V v[N];
    BM_UNROLL for (int k = 0; k < N; ++k) std::memcpy(&v[k], from[k] + y, sizeof(V));
    sort_values<N>(v);
    BM_UNROLL for (int k = 0; k < N; ++k) std::memcpy(to[k] + y, &v[k], sizeof(V));
  }
}

// Medians of the windows whose columns have been sorted.
template <int N, class T>
BM_CLONES void pick_medians(const T* const* sorted, T* to, std::size_t n) {
  typedef typename Lane<T>::type V;
  for (std::size_t y = 0; y < n; y += Lane<T>::count) {
    V candidate[candidate_count<N>()];
    int found = 0;
    BM_UNROLL for (int a = 1; a <= N; ++a) {
      V row[N];
      BM_UNROLL for (int d = 0; d < N; ++d) std::memcpy(&row[d], sorted[a - 1] + y + d, sizeof(V));
      sort_values<N>(row);
      BM_UNROLL for (int b = 1; b <= N; ++b) {
        if (may_be_median<N>(a, b)) candidate[found++] = row[b - 1];
      }
    }
    V m;
    middle_of<candidate_count<N>()>(candidate, m);
    std::memcpy(to + y, &m, sizeof(V));
  }
}

template <int N, class T, class Interrupt>
void median_sort(Plane<const double> in, Plane<double> out, std::size_t left, std::size_t right,
                 Interrupt pause) {
  constexpr std::size_t lanes = Lane<T>::count;
  constexpr ptrdiff_t r = N / 2;
  const std::size_t length = (in.rows + 2 * r + lanes - 1) / lanes * lanes + lanes;
  std::vector<T> ring(N * length), ordered(N * length), result(length);
  const T* column[N];
  T* sorted[N];
  for (int k = 0; k < N; ++k) {
    column[k] = &ring[static_cast<std::size_t>(k) * length];
    sorted[k] = &ordered[static_cast<std::size_t>(k) * length];
  }
  auto load = [&](ptrdiff_t x) {
    load_rows(in.col(reflect(x, in.cols)), in.rows, -r, in.rows + 2 * r,
              &ring[static_cast<std::size_t>(x + r) % N * length]);
  };
  for (ptrdiff_t x = -r; x < r; ++x) load(static_cast<ptrdiff_t>(left) + x);
  for (std::size_t x = left; x < right; ++x) {
    load(static_cast<ptrdiff_t>(x) + r);
    sort_columns<N, T>(column, sorted, in.rows + 2 * r);
    pick_medians<N, T>(sorted, result.data(), in.rows);
    double* to = out.col(x);
    for (std::size_t y = 0; y < in.rows; ++y) to[y] = result[y];
    if (x % 256 == 0) pause();
  }
}

}  // namespace bm
