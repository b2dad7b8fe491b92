# Building.
# Sourced by ./deft.

server_jar=$root/server/target/deft-server-exec.jar
app=$root/server/target/app
demo_jar=$root/demo/target/deft-demo.jar

sources_newer_than() {
  find "$root/core" "$root/server" "$root/demo" "$root/web" "$root/pom.xml" \
    \( -name target -o -name node_modules -o -name dist \) -prune -o -type f -newer "$1" -print -quit | grep -q .
}

build() {
  if [ -f "$server_jar" ] && [ -f "$demo_jar" ] && ! sources_newer_than "$demo_jar"; then
    find_java
    if [ ! -d "$app" ] || [ "$server_jar" -nt "$app" ]; then unpack; fi
    return
  fi
  [ -w "$root" ] || fail "The program has to be built first, and $(id -un) cannot write to $root.
Run it as the owner of that directory, or from a copy of your own."
  need_build_tools
  need_disk "$root" 1500
  step "building server and interface (some minutes the first time, while libraries are fetched)"
  mkdir -p "$root/.deft"
  local log=$root/.deft/build.log
  if ! (cd "$root" && mvn -B -q -pl core,web,server,demo -DskipTests -Dspotless.check.skip package) >"$log" 2>&1; then
    grep -E 'ERROR|error' "$log" | head -n 20 >&2 || true
    fail "The build failed. The whole log is $log."
  fi
  unpack
  touch "$demo_jar"
}

# The server as a directory, which starts faster than its jar; also of a jar that was built otherwise.
unpack() {
  rm -rf "$app"
  "$JAVA_HOME/bin/java" -Djarmode=tools -jar "$server_jar" extract --destination "$app" >/dev/null 2>&1 ||
    fail "$server_jar could not be unpacked. Delete it, and try again."
  touch "$app"
}

# The first start after a build lets the JVM note what it loads, so that every later start takes seconds.
prepare_quick_start() {
  local cache=$1
  shift
  [ ! -f "$cache" ] || return 0
  step "preparing quick starts (once after each build, under a minute)"
  "$JAVA_HOME/bin/java" "-XX:AOTCacheOutput=$cache" -Dspring.context.exit=onRefresh "$@" >"$data/prepare.log" 2>&1 9>&- || {
    rm -f "$cache"
    step "that did not work ($data/prepare.log); starts will be slower, nothing else"
  }
}
