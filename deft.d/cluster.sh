# The database cluster.
# Sourced by ./deft.

# PostgreSQL refuses to run as root, so root lends it the ordinary user of Debian's package.
as_pg() {
  if is_root; then
    (cd / && runuser -u postgres -- env LC_ALL=C.UTF-8 "$@")
  else
    env LC_ALL=C.UTF-8 "$@"
  fi
}

port_taken() { (: <"/dev/tcp/127.0.0.1/$1") 2>/dev/null; }

free_port() {
  local port
  for port in $(seq "$1" $(($1 + 200))); do
    port_taken "$port" || { echo "$port"; return; }
  done
  fail "No free port between $1 and $(($1 + 200)) on 127.0.0.1."
}

# Where the cluster may live: below the given directory, or, where its user cannot reach that, below /var/lib.
cluster_place() {
  local wanted=$1
  mkdir -p "$wanted"
  if is_root && ! as_pg test -x "$wanted"; then
    local other
    other=/var/lib/deft-lens/$(printf '%s' "$wanted" | cksum | cut -d' ' -f1)
    mkdir -p "$other"
    step "the user postgres cannot reach $wanted; the database goes to $other"
    echo "$other"
  else
    echo "$wanted"
  fi
}

# start_cluster PLACE PORT
start_cluster() {
  as_pg "$pg_bin/pg_ctl" -D "$1/pg" -l "$1/pg/server.log" -w -t 60 -o "-p $2" start >/dev/null 2>&1 9>&-
}

cluster_running() { as_pg "$pg_bin/pg_ctl" -D "$1/pg" status >/dev/null 2>&1; }

# cluster_up DIR [volatile]: makes the cluster when there is none, starts it when it stands still.
cluster_up() {
  local home place port log
  home=$1
  need_postgres
  mkdir -p "$home"
  home=$(cd "$home" && pwd)
  place=$(cluster_place "$home")
  echo "$place" >"$home/place"
  if [ ! -f "$place/pg/PG_VERSION" ]; then
    need_disk "$place" 500
    step "making a PostgreSQL $pg_major cluster in $place"
    rm -rf "$place/pg" "$place/socket"
    mkdir -p "$place/pg" "$place/socket"
    (umask 077 && od -An -N24 -tx1 /dev/urandom | tr -d ' \n' >"$home/password")
    cp "$home/password" "$place/pg.password"
    if is_root; then chown postgres "$place/pg" "$place/socket" "$place/pg.password"; fi
    log=$(mktemp)
    as_pg "$pg_bin/initdb" -D "$place/pg" -U deft --encoding=UTF8 --locale=C.UTF-8 \
      --auth=scram-sha-256 --pwfile="$place/pg.password" --data-checksums >"$log" 2>&1 || {
      cat "$log" >&2
      rm -rf "$place/pg"
      fail "The database cluster could not be made; the lines above say why."
    }
    rm -f "$log" "$place/pg.password"
    {
      echo "listen_addresses = '127.0.0.1'"
      echo "unix_socket_directories = '$place/socket'"
      echo "max_connections = 120"
      echo "shared_buffers = 512MB"
      echo "effective_cache_size = 4GB"
      echo "work_mem = 32MB"
      echo "maintenance_work_mem = 256MB"
      echo "random_page_cost = 1.1"
      echo "jit = off"
      echo "timezone = 'UTC'"
      echo "log_timezone = 'UTC'"
      if [ "${scale:-}" = large ]; then
        echo "shared_buffers = 2GB"
        echo "max_wal_size = 8GB"
        echo "maintenance_work_mem = 1GB"
        echo "shared_preload_libraries = 'pg_stat_statements'"
        echo "pg_stat_statements.track_planning = on"
      fi
      if [ "${2:-}" = volatile ]; then
        echo "fsync = off"
        echo "synchronous_commit = off"
        echo "full_page_writes = off"
      fi
    } >>"$place/pg/postgresql.conf"
  fi
  if ! cluster_running "$place"; then
    log=$place/pg/server.log
    # Below the ports that the system lends to outgoing connections: one of those keeps its port for a minute after its end,
    # and nobody listens there meanwhile, so it looks free.
    port=$(free_port "$database_port")
    if ! start_cluster "$place" "$port"; then
      tail -n 15 "$log" | grep -q "Address already in use" && port=$(free_port $((port + 1))) && start_cluster "$place" "$port" || {
        tail -n 15 "$log" >&2 || true
        fail "The database did not start; its log is $log."
      }
    fi
    echo "$port" >"$home/port"
    step "database running on 127.0.0.1:$port"
  fi
}

cluster_down() {
  local home=$1 place
  [ -f "$home/place" ] || return 0
  place=$(cat "$home/place")
  pg_bin=/usr/lib/postgresql/$pg_major/bin
  if [ -d "$place/pg" ] && cluster_running "$place"; then
    as_pg "$pg_bin/pg_ctl" -D "$place/pg" -m fast -w stop >/dev/null
    step "database stopped"
  fi
}

# sql HOME DATABASE [psql arguments…]
sql() {
  local home=$1 database=$2
  shift 2
  PGOPTIONS="-c client_min_messages=warning" PGPASSWORD=$(cat "$home/password") psql -X -q -v ON_ERROR_STOP=1 -h 127.0.0.1 -p "$(cat "$home/port")" -U deft -d "$database" "$@"
}

ensure_database() {
  if [ -z "$(sql "$1" postgres -At -c "select 1 from pg_database where datname = '$2'")" ]; then
    sql "$1" postgres -c "create database \"$2\""
  fi
}
