#!/usr/bin/env bash
# scripts/backup.sh DATA FILE: writes everything in the database of a running ./start (its --data folder) to a file, as it stands at one
# moment, while people go on working. The file holds no key that opens anything: cookies.pfx and mail are files of DATA of their own.
set -euo pipefail
cd "$(dirname "$0")/.."
source scripts/needs.sh
source scripts/postgres.sh
data=$(cd "${1:?scripts/backup.sh DATA FILE}" && pwd)
file=${2:?scripts/backup.sh DATA FILE}
home=$data/postgres
[ -f "$data/elsewhere" ] && home=$(cat "$data/elsewhere")
port=$(sed -n 4p "$home/data/postmaster.pid" 2>/dev/null) || { echo "backup: no database is running in $data; start it with ./start --data $data" >&2; exit 1; }
(umask 077; as_postgres "$pg_bin/pg_dump" -h "$home" -p "$port" -U postgres -Fc --no-owner postgres >"$file.part")
mv "$file.part" "$file"
echo "backup: $(stat -c %s "$file") bytes in $file"
