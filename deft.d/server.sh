# The server: run, awaited, greeted, stopped.
# Sourced by ./deft.

# The server of this data directory, by its own file or, where that is lost, among all processes.
server_pid() {
  local file=$data/server.pid pid
  if [ -f "$file" ]; then
    pid=$(cat "$file")
    if is_server "$pid"; then
      echo "$pid"
      return 0
    fi
    # The file of a process that lives is never taken away: it may still be on its way to become the server.
    [ -d "/proc/$pid" ] || rm -f "$file"
  fi
  for pid in /proc/[0-9]*; do
    pid=${pid#/proc/}
    if is_server "$pid"; then
      echo "$pid" >"$file"
      echo "$pid"
      return 0
    fi
  done
  return 1
}

is_server() {
  local command
  # Read whole before it is searched: a search that ends early would break the pipe, and that counts as not found.
  command=$(tr '\0' ' ' 2>/dev/null <"/proc/$1/cmdline" || true)
  [[ $command == *java*"deft.data=$data "*deftlens.server.Application* ]]
}

# A child is this script itself until it has become Java; on a busy machine that takes a while.
await_start() {
  local pid=$1
  until is_server "$pid"; do
    [ -d "/proc/$pid" ] || return 1
    sleep 0.1
  done
}

answers() {
  # One plain HTTP request without any tool that a fresh machine may lack.
  local reply
  exec 8<>"/dev/tcp/127.0.0.1/$1" || return 1
  printf 'GET /actuator/health/readiness HTTP/1.0\r\nHost: localhost\r\n\r\n' >&8
  IFS= read -r -t 5 reply <&8 || reply=""
  exec 8<&- 8>&-
  [[ $reply == *" 200"* ]]
}

run_server() {
  local mode=$1 port=$2 foreground=$3 on=$4 pid
  server=""
  if pid=$(server_pid); then
    local running
    running=$(cat "$data/server.port")
    if [ -n "$on" ] && [ "$on" != "$(cat "$data/on" 2>/dev/null || true)" ] || [ "$port" != "$running" ] && [ -n "$port_given" ]; then
      fail "Deft Lens already runs on port $running (process $pid) with other options. Run ./deft stop first."
    fi
    step "already running"
    greet "$running"
    return
  fi
  if port_taken "$port"; then
    fail "Port $port on this machine is taken by another program. Choose another: ./deft $mode --port $((port + 1))"
  fi
  local known
  known=$(cat "$data/mode" 2>/dev/null || true)
  if [ "$mode" = demo ] && [ "$known" = own ]; then
    fail "$data holds records of your own; the demo world is not loaded into them. Give it a place: ./deft demo --data DIR"
  fi
  if [ -n "$known" ] && [ -n "$on" ] && [ "$on" != "$(cat "$data/on" 2>/dev/null || true)" ]; then
    fail "The demo world in $data was built around another day. Give this one a place of its own: ./deft demo --on $on --data DIR"
  fi
  if [ -n "$known" ] && [ -n "$scale" ] && [ "$scale" != "$(cat "$data/scale" 2>/dev/null || true)" ]; then
    fail "The demo world in $data was loaded at its usual size. Give the large one a place of its own: ./deft demo --scale large --data DIR"
  fi
  [ -n "$known" ] && mode=$known || { [ "$mode" = demo ] || mode=own; }
  build
  need_disk "$data" "$([ "$scale" = large ] && echo 6000 || echo 700)"
  cluster_up "$data/database"
  ensure_database "$data/database" deft
  [ -n "$on" ] || on=$(cat "$data/on" 2>/dev/null || true)

  local jvm=(-Xmx1g -XX:+UseSerialGC) classes=$app/deft-server-exec.jar args=(-Duser.timezone=UTC "-Ddeft.data=$data")
  if [ "$mode" = demo ]; then
    classes=$classes:$demo_jar
    args+=(-Ddeft.demo.enabled=true "-Ddeft.demo.scale=${scale:-usual}")
    [ -z "$on" ] || args+=("-Ddeft.clock.on=$on")
  fi
  args+=(-cp "$classes" deftlens.server.Application "--server.port=$port"
    "--spring.datasource.url=jdbc:postgresql://127.0.0.1:$(cat "$data/database/port")/deft")
  export SPRING_DATASOURCE_USERNAME=deft SPRING_DATASOURCE_PASSWORD
  SPRING_DATASOURCE_PASSWORD=$(cat "$data/database/password")
  prepare_quick_start "$app/$mode.aot" "${jvm[@]}" "${args[@]}"
  [ ! -f "$app/$mode.aot" ] || jvm+=("-XX:AOTCache=$app/$mode.aot" -Xlog:aot=off -Xlog:cds=off)
  args=("${jvm[@]}" "${args[@]}")
  echo "$port" >"$data/server.port"
  if [ "$mode" = demo ] && [ ! -f "$data/mode" ]; then step "loading the demo world${scale:+ at its large size, which takes some minutes}"; fi
  step "starting the server"
  if [ "$foreground" = yes ]; then
    echo "$mode" >"$data/mode"
    echo "$on" >"$data/on"
    echo "$scale" >"$data/scale"
    "$JAVA_HOME/bin/java" "${args[@]}" 9>&- &
    server=$!
    echo "$server" >"$data/server.pid"
    # The database is never taken away under a server that lives.
    trap 'kill "$server" 2>/dev/null || true; wait "$server" 2>/dev/null || true; cluster_down "$data/database"' EXIT
    trap 'kill "$server" 2>/dev/null || true' INT TERM
    await_start "$server" || true
    wait_ready "$port" "" && greet "$port"
    wait "$server" || true
    rm -f "$data/server.pid"
    return
  fi
  local log=$data/server.log
  setsid "$JAVA_HOME/bin/java" "${args[@]}" >"$log" 2>&1 </dev/null 9>&- &
  pid=$!
  echo "$pid" >"$data/server.pid"
  await_start "$pid" || true
  wait_ready "$port" "$log"
  echo "$mode" >"$data/mode"
  echo "$on" >"$data/on"
  echo "$scale" >"$data/scale"
  greet "$port"
}

wait_ready() {
  local port=$1 log=$2 waited=0 told="" line most=600
  [ -z "${scale:-}" ] || most=7200
  until answers "$port" 2>/dev/null; do
    if ! server_pid >/dev/null; then
      [ -z "$log" ] || { grep -E 'ERROR|Caused by|APPLICATION FAILED' -A 3 "$log" | tail -n 20 >&2 || true; }
      fail "The server stopped while starting.${log:+ Its log is $log.}"
    fi
    waited=$((waited + 1))
    if [ -n "$log" ]; then
      line=$(sed -n 's/.* : \(loading\|indexing\|counting\) /\1 /p' "$log" | tail -n 1)
      if [ -n "$line" ] && [ "$line" != "$told" ]; then step "  $line"; told=$line; fi
    fi
    [ "$waited" -lt "$most" ] || fail "The server has not answered for $((most / 120)) minutes.${log:+ Its log is $log.}"
    sleep 0.5
  done
}

greet() {
  local port=$1
  printf '\nDeft Lens is at  http://localhost:%s/\n' "$port"
  if [ "$(cat "$data/mode" 2>/dev/null)" = demo ]; then
    cat <<'TEXT'

Sign in as one of these; the password of each is  demo-only
  ines.marlow     administrator
  tomas.rell      finance clerk
  asta.quill      supervisor, North Quay
  bram.oake       supervisor, Lantern Pier
  wren.halloway   storekeeper, Cooper's Basin
  petra.lind      auditor: reads everything, changes nothing
TEXT
  elif [ -f "$data/first-administrator" ]; then
    printf '\nFirst sign-in (the password has to be changed there, and is then told nowhere any more):\n'
    cat "$data/first-administrator"
  fi
  printf '\nStop it with ./deft stop%s\n' "$([ "$data" = "$root/.deft" ] || printf ' --data %s' "$data")"
}

stop() {
  local pid
  if pid=$(server_pid); then
    kill "$pid"
    for _ in $(seq 60); do
      [ -d "/proc/$pid" ] || break
      sleep 0.25
    done
    if [ -d "/proc/$pid" ]; then
      kill -9 "$pid" 2>/dev/null || true
      step "the server did not stop by itself within 15 seconds and was ended"
    else
      step "server stopped"
    fi
    rm -f "$data/server.pid"
  else
    step "no server is running on $data"
  fi
  cluster_down "$data/database"
}
