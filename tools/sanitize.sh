#!/usr/bin/env bash
# Builds the package with address and undefined-behaviour checks (GCC) into build/sanitized and runs the tests that reach the
# kernels; any finding ends them. Names of test files may be given, such as: bash tools/sanitize.sh damaged read
set -euo pipefail
cd "$(dirname "$0")/.."
lib="$PWD/build/sanitized"
work="$PWD/build/sanitized-src"
rm -rf "$lib" "$work"
mkdir -p "$lib" "$work"
cp -r DESCRIPTION NAMESPACE R src inst exec "$work"
rm -f "$work"/src/*.o "$work"/src/*.so
flags="-fsanitize=address,undefined -fno-sanitize-recover=undefined -fno-omit-frame-pointer -g -O1"
cat > build/sanitized.makevars <<END
CXX17FLAGS = $flags
LDFLAGS = -fsanitize=address,undefined
END
preload="$(g++ -print-file-name=libasan.so):$(g++ -print-file-name=libubsan.so)"
export ASAN_OPTIONS="detect_leaks=0:abort_on_error=1:handle_segv=0:suppressions=$PWD/tools/sanitize-suppressions.txt" UBSAN_OPTIONS=print_stacktrace=1:halt_on_error=1
MAKEFLAGS=-j2 R_MAKEVARS_USER="$PWD/build/sanitized.makevars" R CMD INSTALL --no-docs --no-test-load --library="$lib" "$work" > build/sanitized.log 2>&1 ||
  { tail -40 build/sanitized.log; exit 1; }
kernels="calibration-plane damaged field-overlay field-read field-strip filter-band filter-edge filter-kernel filter-morphology
filter-smooth filter-nonlocal locate locate-each locate-follow locate-teach mask mask-areas mask-forms mask-morphology
measures-measure measures-ring objects objects-outlines objects-separate objects-separate-outlines phase-fraction
phase-edges phase-level results-measures results-write segment-classes segment-level segment-local segment-rules sizes-distribution"
for name in ${*:-$kernels}; do
  echo "== $name"
  LD_PRELOAD="$preload" R_LIBS="$lib" BEMRICK_THREADS=2 Rscript tools/run-tests.R "$name"
done
echo "No findings."
