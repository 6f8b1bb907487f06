// Compiler settings for kernels. R compiles at -O2, where GCC 12 vectorises few loops, so kernel
// files include this first; BM_CLONES on a leaf function gives it a second body for AVX2, chosen
// when the package is loaded. Neither changes a result: no fused or reordered arithmetic.
#pragma once
#if defined(__GNUC__) && !defined(__clang__)
#pragma GCC optimize("O3")
#endif
#if defined(__GNUC__) && !defined(__clang__) && defined(__x86_64__) && defined(__linux__)
#define BM_CLONES __attribute__((target_clones("avx2", "default")))
#else
#define BM_CLONES
#endif
// Short loops over an array of lanes are unrolled whole, so that the array lives in registers.
#if defined(__clang__)
#define BM_UNROLL _Pragma("unroll")
#else
#define BM_UNROLL _Pragma("GCC unroll 32")
#endif
#define BM_INLINE inline __attribute__((always_inline))
