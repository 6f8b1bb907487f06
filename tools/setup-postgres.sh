#!/usr/bin/env bash
# PostgreSQL and its driver, for the tests of ledgers: they start a server of their own on the loopback address. Where
# they cannot be installed, ledgers are tested in files only.
set -uo pipefail
cd "$(dirname "$0")/.."

server() { command -v pg_ctl || ls /usr/lib/postgresql/*/bin/pg_ctl; }
driver() { [ -z "$(Rscript tools/missing-packages.R --load RPostgres)" ]; }

if ! { server && driver; } >/dev/null 2>&1 && [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null 2>&1; then
  echo "Installing: PostgreSQL and RPostgres"
  # what the driver is made of, where it is built already
  parts="r-cran-dbi r-cran-hms r-cran-lubridate r-cran-bit64 r-cran-blob r-cran-plogr r-cran-cpp11"
  apt-get update -qq
  DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends postgresql libpq-dev $parts >/dev/null
  driver || Rscript tools/install-from-cran.R RPostgres
fi
if ! { server && driver; } >/dev/null 2>&1; then
  echo "PostgreSQL or RPostgres cannot be installed: ledgers are tested in files only." >&2
fi
exit 0
