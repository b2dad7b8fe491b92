# What the machine must have.
# Sourced by ./deft.

is_root() { [ "$(id -u)" = 0 ]; }

java_major() { "$1" -version 2>&1 | sed -n 's/.*version "\([0-9]*\).*/\1/p' | head -n 1; }

find_java() {
  local candidate found=""
  for candidate in "${JAVA_HOME:-/nowhere}/bin/java" "$(command -v java || true)" /usr/lib/jvm/*/bin/java; do
    [ -x "$candidate" ] || continue
    [ -x "$(dirname "$candidate")/javac" ] || continue
    if [ "$(java_major "$candidate")" -ge "$java_wanted" ] 2>/dev/null; then
      found=$(readlink -f "$candidate")
      break
    fi
  done
  [ -n "$found" ] || fail "No JDK $java_wanted was found, neither on the PATH nor under /usr/lib/jvm.
Install one (any vendor's package of a JDK $java_wanted) and run the command again."
  JAVA_HOME=$(dirname "$(dirname "$found")")
  export JAVA_HOME PATH="$JAVA_HOME/bin:$PATH"
}

# Installs Debian packages as root; otherwise says which are missing.
install_packages() {
  if ! is_root; then
    fail "These packages are missing: $*
Install them and run this again:  sudo apt-get install $*"
  fi
  command -v apt-get >/dev/null || fail "These packages are missing and this is no Debian: $*"
  step "installing $* from Debian's packages"
  local log
  log=$(mktemp)
  if ! { apt-get update && DEBIAN_FRONTEND=noninteractive apt-get install -y --no-install-recommends "$@"; } >"$log" 2>&1; then
    tail -n 15 "$log" >&2
    fail "The packages could not be installed: $*
The whole log is in $log. Mend what it names, then run this again."
  fi
  rm -f "$log"
}

need_postgres() {
  pg_bin=/usr/lib/postgresql/$pg_major/bin
  [ -x "$pg_bin/initdb" ] || install_packages "postgresql-$pg_major"
  [ -x "$pg_bin/initdb" ] || fail "PostgreSQL $pg_major is not in $pg_bin although its package is installed."
}

need_build_tools() {
  find_java
  command -v mvn >/dev/null || install_packages maven
  command -v node >/dev/null || install_packages nodejs npm
  command -v npm >/dev/null || install_packages npm
  local node_major
  node_major=$(node --version | sed 's/^v\([0-9]*\).*/\1/')
  [ "$node_major" -ge "$node_wanted" ] || fail "Node is version $node_major here; building the interface needs Node $node_wanted.
Install a newer Node and run this again."
}

need_disk() {
  local dir=$1 megabytes=$2 free
  free=$(df -Pm "$dir" | awk 'NR == 2 { print $4 }')
  [ "$free" -ge "$megabytes" ] || fail "Only $free MB are free where $dir lies, and this needs about $megabytes MB.
Free some space, or name another place with --data DIR."
}
