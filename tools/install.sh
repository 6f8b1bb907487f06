#!/usr/bin/env bash
# Puts the package with help pages and vignettes into the user's R library, and the program on the path:
# into ~/.local/bin, or $BINDIR.
set -euo pipefail
cd "$(dirname "$0")/.."

mkdir -p build
export MAKEFLAGS="-j$(getconf _NPROCESSORS_ONLN)"
rm -f build/bemrick_*.tar.gz
echo "Building the package with its vignettes (some minutes) ..."
(cd build && R CMD build .. > build.log 2>&1) || { cat build/build.log >&2; exit 1; }
lib=$(Rscript -e '
  mine <- .libPaths()[file.access(.libPaths(), 2) == 0]
  lib <- if (length(mine)) mine[1] else strsplit(Sys.getenv("R_LIBS_USER"), .Platform$path.sep)[[1]][1]
  dir.create(lib, recursive = TRUE, showWarnings = FALSE)
  cat(normalizePath(lib))')
R CMD INSTALL --library="$lib" build/bemrick_*.tar.gz > build/install-user.log 2>&1 || { cat build/install-user.log >&2; exit 1; }

bin="${BINDIR:-$HOME/.local/bin}"
mkdir -p "$bin"
if [ -e "$bin/bemrick" ] && [ ! -L "$bin/bemrick" ]; then
  echo "$bin/bemrick is not ours: nothing was put over it. Set BINDIR to another folder." >&2
  exit 1
fi
chmod +x "$lib/bemrick/exec/bemrick"
ln -sfn "$lib/bemrick/exec/bemrick" "$bin/bemrick"
echo "Package: $lib/bemrick"
echo "Program: $bin/bemrick"
case ":$PATH:" in
  *":$bin:"*) ;;
  *) echo "Add $bin to your PATH: export PATH=\"$bin:\$PATH\"" ;;
esac
