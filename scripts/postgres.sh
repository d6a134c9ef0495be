# Starts and stops a PostgreSQL of the project's own on loopback. Sourced, not run.
# The data lie in a folder that the unprivileged user can reach; it is remade for tests.

pg_bin=/usr/lib/postgresql/15/bin

need_postgres() {
  [ -x "$pg_bin/initdb" ] && return
  if [ "$(id -u)" -ne 0 ]; then
    echo "Juniperfall needs Debian's package postgresql-15; install it, or run once as root." >&2
    exit 1
  fi
  echo "Installing PostgreSQL 15 …" >&2
  apt-get update -qq
  DEBIAN_FRONTEND=noninteractive apt-get install -y -qq postgresql-15 >/dev/null
}

as_postgres() {
  if [ "$(id -u)" -eq 0 ]; then (cd / && runuser -u postgres -- "$@"); else (cd / && "$@"); fi
}

# start_test_postgres: a throw-away database; sets JUNIPERFALL_TEST_DATABASE and pg_home.
start_test_postgres() {
  pg_home=$(mktemp -d /var/tmp/juniperfall-test.XXXXXX)
  local port password
  port=$(python3 -c 'import socket; s = socket.socket(); s.bind(("127.0.0.1", 0)); print(s.getsockname()[1])' 2>/dev/null || echo $((20000 + RANDOM % 20000)))
  password=$(head -c 18 /dev/urandom | base64 | tr -d '/+=')
  [ "$(id -u)" -eq 0 ] && chown postgres: "$pg_home"
  chmod 700 "$pg_home"
  as_postgres "$pg_bin/initdb" -D "$pg_home/data" -U postgres --auth-local=trust --auth-host=scram-sha-256 -E UTF8 --locale=C.UTF-8 >/dev/null
  as_postgres "$pg_bin/pg_ctl" -D "$pg_home/data" -l "$pg_home/log" -w -t 30 \
    -o "-p $port -c listen_addresses=127.0.0.1 -c unix_socket_directories=$pg_home -c fsync=off" start >/dev/null
  as_postgres "$pg_bin/psql" -q -h "$pg_home" -p "$port" -U postgres -c "alter role postgres password '$password'" >/dev/null
  export JUNIPERFALL_TEST_DATABASE="Host=127.0.0.1;Port=$port;Username=postgres;Password=$password;Database=postgres"
}

stop_test_postgres() {
  [ -n "${pg_home:-}" ] || return 0
  as_postgres "$pg_bin/pg_ctl" -D "$pg_home/data" -m immediate stop >/dev/null 2>&1 || true
  rm -rf "$pg_home"
  pg_home=
}
