# Starts and stops a PostgreSQL of the project's own on loopback. Sourced, not run.

pg_bin=/usr/lib/postgresql/15/bin
scripts=$(cd "$(dirname "${BASH_SOURCE[0]}")" && pwd)

need_postgres() { need_package "$pg_bin/initdb" postgresql-15; }

as_postgres() {
  if [ "$(id -u)" -eq 0 ]; then (cd / && runuser -u postgres -- "$@"); else (cd / && "$@"); fi
}

free_port() {
  node -e 'const s = require("net").createServer().listen(0, "127.0.0.1", () => { process.stdout.write(String(s.address().port)); s.close(); })'
}

# init_postgres FOLDER: a new cluster with a password, readable by its user only.
init_postgres() {
  mkdir -p "$1"
  [ "$(id -u)" -eq 0 ] && chown postgres: "$1"
  chmod 700 "$1"
  as_postgres "$pg_bin/initdb" -D "$1/data" -U postgres --auth-local=trust --auth-host=scram-sha-256 -E UTF8 --locale=C.UTF-8 >/dev/null
}

# pg_up FOLDER: starts its database. What a killed one was still at ends by itself; until then its memory is in use.
pg_up() {
  local try
  for try in $(seq 1 30); do
    as_postgres "$pg_bin/pg_ctl" -D "$1/data" -l "$1/log" -w -t 60 start >/dev/null 2>&1 && return 0
    sleep 1
  done
  as_postgres tail -n 5 "$1/log" >&2
  return 1
}

# run_postgres FOLDER PORT OPTIONS: starts it; sets the password anew and JUNIPERFALL_DATABASE.
run_postgres() {
  local password
  password=$(head -c 18 /dev/urandom | base64 | tr -d '/+=')
  # In a file of their own, so that the database comes up the same however it is started.
  as_postgres tee "$1/data/postgresql.auto.conf" >/dev/null <<CONF
port = $2
listen_addresses = '127.0.0.1'
unix_socket_directories = '$1'
$3
CONF
  pg_up "$1"
  as_postgres "$pg_bin/psql" -q -v ON_ERROR_STOP=1 -v password="$password" -h "$1" -p "$2" -U postgres -f - <"$scripts/role.sql" >/dev/null
  export JUNIPERFALL_DATABASE="Host=127.0.0.1;Port=$2;Username=juniperfall;Password=$password;Database=postgres"
}

# start_postgres FOLDER: the lasting database of ./start. Where the database's user cannot reach the folder, or its
# sockets' path would be too long, the data lie under /var/tmp and the folder says where.
start_postgres() {
  mkdir -p "$1"
  pg_home=$1/postgres
  if [ -f "$1/elsewhere" ]; then
    pg_home=$(cat "$1/elsewhere")
  elif [ ! -d "$pg_home" ]; then
    if ! { [ "$(id -u)" -ne 0 ] || as_postgres test -x "$1"; } || [ ${#pg_home} -gt 80 ]; then
      pg_home=$(mktemp -d /var/tmp/juniperfall.XXXXXX)
      echo "$pg_home" > "$1/elsewhere"
    fi
  fi
  [ -f "$pg_home/data/PG_VERSION" ] || init_postgres "$pg_home"
  if [ -f "$1/start.pid" ] && kill -0 "$(cat "$1/start.pid")" 2>/dev/null; then
    echo "start: another ./start (process $(cat "$1/start.pid")) is using $1" >&2
    pg_home=
    exit 1
  fi
  echo $$ > "$1/start.pid"
  forget_dead_postgres "$pg_home"
  # One that a killed ./start has left running.
  if as_postgres "$pg_bin/pg_ctl" -D "$pg_home/data" status >/dev/null 2>&1; then
    as_postgres "$pg_bin/pg_ctl" -D "$pg_home/data" -m fast -w stop >/dev/null
  fi
  run_postgres "$pg_home" "$(free_port)" ""
}

# forget_dead_postgres FOLDER: the lock file of a killed one. Its number may be a process that nothing reaped, or by now another program's;
# PostgreSQL itself takes both for a server that still runs.
forget_dead_postgres() {
  local pid
  pid=$(head -n 1 "$1/data/postmaster.pid" 2>/dev/null) || return 0
  if ! [ -d "/proc/$pid" ] || grep -q '^State:\s*Z' "/proc/$pid/status" 2>/dev/null || ! tr '\0' ' ' <"/proc/$pid/cmdline" 2>/dev/null | grep -q "postgres.*$1/data"; then
    sleep 1
    rm -f "$1/data/postmaster.pid"
  fi
}

# end_leftover_server FOLDER: ends a server whose ./start was killed.
end_leftover_server() {
  local pid
  pid=$(cat "$1/server.pid" 2>/dev/null) || return 0
  if ! kill -0 "$(cat "$1/start.pid" 2>/dev/null || echo 0)" 2>/dev/null && grep -q Juniperfall.Server "/proc/$pid/cmdline" 2>/dev/null; then
    kill -TERM "$pid" 2>/dev/null || true
    for _ in $(seq 1 50); do kill -0 "$pid" 2>/dev/null || break; sleep 0.1; done
  fi
  rm -f "$1/server.pid"
}

# resume_postgres FOLDER: starts a stopped database of a running ./start again, as it was.
resume_postgres() {
  local home=$1/postgres
  [ -f "$1/elsewhere" ] && home=$(cat "$1/elsewhere")
  forget_dead_postgres "$home"
  pg_up "$home"
}

# start_test_postgres: a throw-away database; sets JUNIPERFALL_TEST_DATABASE.
start_test_postgres() {
  pg_home=$(mktemp -d /var/tmp/juniperfall-test.XXXXXX)
  pg_throwaway=1
  init_postgres "$pg_home"
  run_postgres "$pg_home" "$(free_port)" "fsync = off"
  # Each class of tests makes a database of its own.
  as_postgres "$pg_bin/psql" -q -h "$pg_home" -p "$(sed -n 4p "$pg_home/data/postmaster.pid")" -U postgres -c "alter role juniperfall createdb" >/dev/null
  export JUNIPERFALL_TEST_DATABASE=$JUNIPERFALL_DATABASE
}

stop_postgres() {
  [ -n "${pg_home:-}" ] || return 0
  as_postgres "$pg_bin/pg_ctl" -D "$pg_home/data" -m fast stop >/dev/null 2>&1 || true
  [ -n "${pg_throwaway:-}" ] && rm -rf "$pg_home"
  pg_home=
}
