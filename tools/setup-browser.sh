#!/usr/bin/env bash
# What the tests of the desk's page need: Chromium, and a driver for it from the npm registry, into build/browser; and
# a reader of PDF that is not the browser, for the tests of reports. Where they cannot be installed, the tests say so and
# are skipped.
set -uo pipefail
cd "$(dirname "$0")/.."

browser() { command -v chromium || command -v chromium-browser || command -v google-chrome; }

root() { [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null 2>&1; }

need=""
browser >/dev/null || need="chromium fonts-dejavu-core"
command -v node >/dev/null || need="$need nodejs npm"
command -v pdftotext >/dev/null || need="$need poppler-utils"
if [ -n "$need" ] && root; then
  echo "Installing:" $need
  apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $need >/dev/null
fi
if ! [ -d build/browser/node_modules/playwright-core ] && command -v npm >/dev/null; then
  mkdir -p build/browser
  npm install --silent --no-audit --no-fund --prefix build/browser playwright-core@1 >/dev/null 2>&1
fi
if ! browser >/dev/null || ! [ -d build/browser/node_modules/playwright-core ]; then
  echo "Chromium or its driver cannot be installed: the tests of the desk's page are skipped." >&2
fi
exit 0
