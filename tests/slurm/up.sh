#!/bin/bash
# usage: up.sh DIR [NODES] [CPUS_PER_NODE]  -- private Slurm cluster on loopback, no systemd; writes DIR/env.sh
set -euo pipefail
# the daemons outlive this script: what it prints may not be theirs to hold open
exec 3>&1 >/dev/null 2>&1 </dev/null
say() { echo "$@" >&3; }
D=$(mkdir -p "$1" && cd "$1" && pwd); N=${2:-2}; C=${3:-1}; P=$((20000 + $$ % 20000)); H=$(hostname -s)
bash "$(dirname "$0")/down.sh" "$D"; rm -rf "$D"/{munge,ctld,spool,log}
mkdir -p -m 0755 "$D"/{munge,ctld,spool,log}; chmod 0755 "$D"
# munge: private key/socket, owned by the user who runs munged, key 0600
dd if=/dev/urandom of="$D/munge/key" bs=1 count=1024 status=none; chmod 0600 "$D/munge/key"
munged 3>&- --force --key-file="$D/munge/key" --socket="$D/munge/sock" --pid-file="$D/munge/pid" \
       --log-file="$D/munge/log" --seed-file="$D/munge/seed" --num-threads=4
cat > "$D/slurm.conf" <<CONF
ClusterName=local
SlurmctldHost=$H(127.0.0.1)
SlurmctldPort=$P
SlurmUser=$(id -un)
SlurmdUser=$(id -un)
AuthType=auth/munge
AuthInfo=socket=$D/munge/sock,cred_expire=5
CredType=cred/munge
StateSaveLocation=$D/ctld
SlurmdSpoolDir=$D/spool/%n
SlurmctldPidFile=$D/slurmctld.pid
SlurmdPidFile=$D/slurmd.%n.pid
SlurmctldLogFile=$D/log/slurmctld.log
SlurmdLogFile=$D/log/slurmd.%n.log
ProctrackType=proctrack/linuxproc
TaskPlugin=task/none
JobAcctGatherType=jobacct_gather/none
AccountingStorageType=accounting_storage/none
JobCompType=jobcomp/none
SwitchType=switch/none
MpiDefault=none
SchedulerType=sched/backfill
SchedulerParameters=batch_sched_delay=0,sched_interval=1,bf_interval=1,defer_batch
SelectType=select/cons_tres
SelectTypeParameters=CR_Core_Memory
DefMemPerCPU=500
ReturnToService=2
MinJobAge=300
KillWait=2
SlurmdTimeout=15
SlurmdParameters=config_overrides
PluginDir=/usr/lib/x86_64-linux-gnu/slurm-wlm
$(for i in $(seq 1 "$N"); do echo "NodeName=n$i NodeHostname=$H NodeAddr=127.0.0.1 Port=$((P+i)) CPUs=$C RealMemory=${MEM:-4000} State=UNKNOWN"; done)
PartitionName=main Nodes=ALL Default=YES MaxTime=01:00:00 State=UP OverSubscribe=NO
CONF
echo "export SLURM_CONF=$D/slurm.conf" > "$D/env.sh"; . "$D/env.sh"
slurmctld -i -c 3>&-
for i in $(seq 1 "$N"); do mkdir -p "$D/spool/n$i"; slurmd -N "n$i" 3>&-; done
for t in $(seq 1 150); do
  [ "$(sinfo -h -N -t idle -o %N 2>/dev/null | wc -l)" = "$N" ] && { say "up: $N nodes"; exit 0; }; sleep 0.2
done
say "slurm did not come up"; say "$(tail -n 20 "$D"/log/*.log "$D"/munge/log)"
bash "$(dirname "$0")/down.sh" "$D"; exit 1
