#!/usr/bin/env bash
# Installs what is missing to build, run and test the package: R packages named in DESCRIPTION (or as arguments), pandoc,
# and libtiff with its headers.
# As root on Debian it takes the built r-cran-* packages; whatever is not there comes from CRAN.
set -euo pipefail
cd "$(dirname "$0")/.."

missing() { Rscript tools/missing-packages.R "$@"; }

need=$(missing "$@")
pandoc=""
command -v pandoc >/dev/null 2>&1 || pandoc="pandoc"
tiff=""
printf '#include <tiffio.h>\n' | cc -E -x c - >/dev/null 2>&1 || tiff="libtiff-dev"
[ -z "$need$pandoc$tiff" ] && exit 0

if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null 2>&1; then
  echo "Installing:" $need $pandoc $tiff
  apt-get update -qq
  built=""
  for name in $need; do
    package="r-cran-$(printf '%s' "$name" | tr '[:upper:]' '[:lower:]')"
    if apt-cache show "$package" >/dev/null 2>&1; then built="$built $package"; fi
  done
  DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $built $pandoc $tiff >/dev/null
  need=$(missing "$@")
fi
if [ -n "$need" ]; then
  echo "Installing from CRAN:" $need
  Rscript tools/install-from-cran.R $need
fi
left=$(missing --load "$@")
if [ -n "$left" ]; then
  echo "These packages are missing, too old, or do not load:" $left >&2
  exit 1
fi
if ! printf '#include <tiffio.h>\n' | cc -E -x c - >/dev/null 2>&1; then
  echo "The headers of libtiff are missing: install libtiff-dev (or libtiff-devel) from your system's packages." >&2
  exit 1
fi
command -v pandoc >/dev/null 2>&1 || echo "pandoc is missing: the vignette cannot be written. Install it from your system's packages." >&2
