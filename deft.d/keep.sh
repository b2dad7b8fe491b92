# Keeping: copies of the database, and a way in for whoever is locked out.
# Sourced by ./deft.

# The cluster of the data directory, as it runs or started now.
need_running() {
  need_postgres
  if [ -f "$data/database/place" ] && cluster_running "$(cat "$data/database/place")"; then return; fi
  cluster_up "$data/database"
}

backup() {
  [ $# -ge 1 ] || fail "Name the file to write: ./deft backup FILE"
  [ ! -e "$1" ] || fail "$1 is there already and is left as it is. Name another file."
  [ -f "$data/database/port" ] || fail "There is no database in $data."
  need_running
  rm -f "$1.part"
  # Made so from the start: what is in it is for nobody else's eyes, not even while it is written.
  (umask 077 && PGPASSWORD=$(cat "$data/database/password") pg_dump -Fc -h 127.0.0.1 -p "$(cat "$data/database/port")" -U deft -f "$1.part" deft) || {
    rm -f "$1.part"
    fail "The copy could not be written; the line above says why."
  }
  mv "$1.part" "$1"
  step "written to $1 ($(du -h "$1" | cut -f1)), readable by $(id -un) only"
  step "it holds every record, and the passwords of linked servers: keep it where you would keep those"
}

restore() {
  [ $# -ge 1 ] && [ -r "$1" ] || fail "Name the file to put back: ./deft restore FILE"
  if server_pid >/dev/null; then fail "The server is running. Stop it first: ./deft stop"; fi
  need_postgres
  cluster_up "$data/database"
  local others
  others=$(sql "$data/database" postgres -At -c "select count(*) from pg_stat_activity where datname = 'deft'")
  [ "$others" = 0 ] || fail "Something still works on this database ($others connections): a server that was started another way?
Stop it first; nothing was changed."
  sql "$data/database" postgres -c 'drop database if exists deft_restored' -c 'create database deft_restored'
  PGPASSWORD=$(cat "$data/database/password") pg_restore -h 127.0.0.1 -p "$(cat "$data/database/port")" -U deft \
    --no-owner --exit-on-error -d deft_restored "$1" || fail "$1 could not be read back; the data that was there is as it was."
  sql "$data/database" postgres -c 'drop database if exists deft_before_restore'
  ensure_database "$data/database" deft
  sql "$data/database" postgres -c 'alter database deft rename to deft_before_restore' -c 'alter database deft_restored rename to deft'
  [ -f "$data/mode" ] || echo own >"$data/mode"
  cluster_down "$data/database"
  step "restored; what was there before is kept as the database deft_before_restore"
}

# Lets somebody in again who has been locked out, as an administrator with a password that has to be changed.
administrator() {
  [ $# -eq 1 ] && [ -n "$1" ] || fail "Name who is to be administrator: ./deft administrator NAME"
  [[ $1 =~ ^[A-Za-z0-9][A-Za-z0-9._@+-]{0,59}$ ]] || fail "A sign-in name has letters, digits, dots, dashes and @, at most 60, and no spaces; not “$1”."
  [ -f "$data/database/port" ] || fail "There is no database in $data."
  need_running
  local password hash name=${1,,}
  password=$(LC_ALL=C tr -dc 'a-hjkmnp-z2-9' </dev/urandom | head -c 20 || true)
  # The hash is made beside the data, so that nothing is added to it; what is secret goes by way of the input.
  hash=$(printf "set client_min_messages = warning; create extension if not exists pgcrypto; select crypt('%s', gen_salt('bf', 10));" "$password" |
    sql "$data/database" postgres -At | tail -n 1)
  printf "%s" "
    insert into person (name, full_name, password_hash, role) select '$name', 'Administrator', '', 'ADMINISTRATOR'
      where not exists (select from person where lower(name) = '$name');
    update person set role = 'ADMINISTRATOR', active = true, left_at = null, must_change_password = true, subject = null,
      password_hash = '$hash', version = version + 1 where lower(name) = '$name';
    delete from spring_session where lower(principal_name) = '$name';
    update personal_token set revoked_at = now() where revoked_at is null and person_id = (select id from person where lower(name) = '$name');
    delete from sign_in_try where name = '$name';
    insert into trail (at, person_id, subject, subject_id, action, after)
      select now(), null, 'person', id, 'let in by the command line', jsonb_build_object('name', name, 'role', role) from person where lower(name) = '$name';
  " | sql "$data/database" deft -1
  printf '\n%s is an administrator and signs in with this password, which has to be changed there:\n  %s\n' "$name" "$password"
  server_pid >/dev/null || cluster_down "$data/database"
}
