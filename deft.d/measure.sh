# Testing and measuring.
# Sourced by ./deft.

tests() {
  need_build_tools
  need_postgres
  # Chromium without a window of its own: the same pages, and a quarter less for two cores to do.
  [ -x /usr/bin/chromium-headless-shell ] || install_packages chromium-headless-shell
  need_disk "$root" 2500
  data=$root/.deft
  mkdir -p "$data"
  cluster_up "$data/test" volatile
  trap 'cluster_down "$data/test"' EXIT
  step "running every check and test"
  (cd "$root" && mvn -B --no-transfer-progress "$@" verify)
}

bench() {
  local what=${1:-all}
  case $what in
    all | core | requests | crowd | pages | readers) [ $# -eq 0 ] || shift ;;
    *) what=core ;;
  esac
  need_build_tools
  step "building the measurements"
  (cd "$root" && mvn -B -q -DskipTests -Dspotless.check.skip -pl core,bench package)
  local classes="$root/bench/target/deft-bench.jar:$root/bench/target/lib/*"
  if [ "$what" = all ] || [ "$what" = core ]; then
    step "the core by itself"
    "$JAVA_HOME/bin/java" -cp "$classes" org.openjdk.jmh.Main "$@"
  fi
  if [ "$what" = all ] || [ "$what" = pages ] || [ "$what" = readers ]; then
    bench_usual "$classes" "$what"
  fi
  if [ "$what" = all ] || [ "$what" = requests ] || [ "$what" = crowd ]; then
    local place=$root/.deft/bench port
    mkdir -p "$place"
    "$root/deft" stop --data "$place" >/dev/null 2>&1 || true
    port=$(free_port 8470)
    "$root/deft" demo --scale large --data "$place" --port "$port" --on 2026-11-23 >/dev/null
    local address
    address="http://localhost:$(cat "$place/server.port")"
    if [ "$what" != crowd ]; then
      step "whole requests beside hand-written SQL, 5,000,000 stores moves"
      "$JAVA_HOME/bin/java" -cp "$classes" deftlens.bench.Requests "$address" \
        "$(cat "$place/database/port")" "$place/database/password" "$@" || { "$root/deft" stop --data "$place"; exit 1; }
    fi
    if [ "$what" != requests ] || [ $# -eq 0 ]; then
      step "sign-in, a week's page and the list of views, among fifty slow questions and fifty files that nobody reads"
      "$JAVA_HOME/bin/java" -cp "$classes" deftlens.bench.Crowd "$address" || { "$root/deft" stop --data "$place"; exit 1; }
    fi
    "$root/deft" stop --data "$place"
  fi
}

# Pages in Chromium, and what a call costs, over the demo world in its usual size, in a place of its own.
bench_usual() {
  local place=$root/.deft/bench-pages port address failed=0
  mkdir -p "$place"
  "$root/deft" stop --data "$place" >/dev/null 2>&1 || true
  port=$(free_port 8475)
  "$root/deft" demo --data "$place" --port "$port" --on 2026-11-23 >/dev/null
  address="http://localhost:$(cat "$place/server.port")"
  if [ "$2" != readers ]; then
    [ -x /usr/bin/chromium ] || install_packages chromium
    step "pages in Chromium: the first row, a click, and the calls they make"
    "$JAVA_HOME/bin/java" -cp "$1" deftlens.bench.Pages "$address" || failed=1
  fi
  if [ "$2" != pages ]; then
    step "fifty readers, and the processor time of one call"
    "$JAVA_HOME/bin/java" -cp "$1" deftlens.bench.Readers "$address" "$(cat "$place/server.pid")" \
      "$(head -1 "$(cat "$place/database/place")/pg/postmaster.pid")" || failed=1
  fi
  "$root/deft" stop --data "$place"
  [ "$failed" = 0 ] || exit 1
}
