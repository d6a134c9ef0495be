#!/usr/bin/env bash
# scripts/restore.sh FILE DATA: makes a new database from a backup, in a folder that has none, for ./start --data DATA.
set -euo pipefail
cd "$(dirname "$0")/.."
source scripts/needs.sh
source scripts/postgres.sh
file=${1:?scripts/restore.sh FILE DATA}
[ -r "$file" ] || { echo "restore: $file cannot be read" >&2; exit 1; }
mkdir -p "${2:?scripts/restore.sh FILE DATA}"
data=$(cd "$2" && pwd)
if [ -e "$data/postgres" ] || [ -e "$data/elsewhere" ]; then
  echo "restore: there is a database in $data already; name another folder" >&2
  exit 1
fi
need_postgres
trap stop_postgres EXIT
start_postgres "$data"
port=$(sed -n 4p "$pg_home/data/postmaster.pid")
# As the role that the server works as, so that it owns what comes back; all of it, or nothing.
as_postgres "$pg_bin/pg_restore" -h "$pg_home" -p "$port" -U postgres -d postgres --no-owner --role=juniperfall --single-transaction <"$file"
as_postgres "$pg_bin/psql" -q -h "$pg_home" -p "$port" -U postgres -c "vacuum analyze" >/dev/null
rm -f "$data/start.pid"
echo "restore: done; serve it with ./start --data $data"
