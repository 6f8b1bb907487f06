#!/usr/bin/env bash
# Installs the scheduler that some tests start for themselves, where that is possible; they are skipped elsewhere.
set -euo pipefail
command -v slurmctld >/dev/null 2>&1 && command -v munged >/dev/null 2>&1 && exit 0
[ "$(id -u)" = 0 ] && command -v apt-get >/dev/null 2>&1 || exit 0
echo "Installing: slurm-wlm munge"
apt-get update -qq
DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends slurm-wlm munge >/dev/null
