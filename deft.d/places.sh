# Where the data lies, and whose turn it is there.
# Sourced by ./deft.

set_data() {
  data=$1
  mkdir -p "$data" 2>/dev/null || fail "The directory $data cannot be made. Name another with --data DIR."
  data=$(cd "$data" && pwd)
  [ -w "$data" ] || fail "$data cannot be written to by $(id -un). Name another place with --data DIR."
}

# One ./deft at a time works on a data directory; the lock goes with the process, so it cannot go stale.
take_lock() {
  exec 9>"$data/lock"
  flock -n 9 || fail "Another ./deft is at work on $data. Wait for it, or stop it (fuser $data/lock names it)."
}
