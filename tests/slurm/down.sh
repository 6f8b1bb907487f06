#!/bin/bash
# down.sh DIR : stops only the daemons whose pid files are in DIR
[ -d "$1" ] || exit 0; D=$(cd "$1" && pwd); export SLURM_CONF=$D/slurm.conf
pids=$(cat "$D"/slurmd.*.pid "$D"/slurmctld.pid "$D"/munge/pid 2>/dev/null)
[ -n "$pids" ] || exit 0
timeout 5 scancel --user="$(id -un)" 2>/dev/null; timeout 10 scontrol shutdown 2>/dev/null
for t in $(seq 1 30); do a=0; for p in $(cat "$D"/slurmd.*.pid "$D"/slurmctld.pid 2>/dev/null); do kill -0 "$p" 2>/dev/null && a=1; done; [ $a = 0 ] && break; sleep 0.1; done
for p in $pids; do kill "$p" 2>/dev/null; done; rm -f "$D"/slurmd.*.pid "$D"/slurmctld.pid "$D"/munge/pid; exit 0
