# Sourced by ./rook. Runs the server with its database, and stops both.

# The server must not inherit the lock that counts its users, or it would count as one itself.
database() {
  "$ROOT/scripts/postgres.sh" "$@" 8>&- || fail "the database did not start; its log is $ROOK_DATA/${ROOK_CLUSTER:-pg}/server.log."
}

# A shared lock counts who uses the cluster; the last one out stops it. The app holds it too: one whose rook was
# killed keeps its database.
hold_cluster() { exec 8>"$ROOK_DATA/${ROOK_CLUSTER:-pg}.users"; chmod 600 "$ROOK_DATA/${ROOK_CLUSTER:-pg}.users"; flock -s 8; }
leave_cluster() {
  exec 8>&-
  (exec 8>"$ROOK_DATA/${ROOK_CLUSTER:-pg}.users"; if flock -n 8; then "$ROOT/scripts/postgres.sh" stop || true; fi)
}

# A database that was killed is started again; the app, $1, waits for it and says so meanwhile. Whoever outlives a rook
# that was killed stops it with the app.
watch_database() {
  while sleep 2; do
    kill -0 "$1" 2>/dev/null || { leave_cluster; return; }
    "$ROOT/scripts/postgres.sh" up && continue
    say "the database was gone; starting it again …"
    "$ROOT/scripts/postgres.sh" start || say "it did not start; its log is $ROOK_DATA/${ROOK_CLUSTER:-pg}/server.log."
  done
}

# with_database NAME WORDS…: the command line on the app's own database, which is started for it where it isn't running.
with_database() {
  local name=$1 status=0; shift
  if [ -n "${DATABASE_URL:-}" ]; then cd "$FROM"; "$ROOT/.venv/bin/upper-rook" "$@"; return; fi
  hold_cluster
  database start
  DATABASE_URL=$(database url "$name")
  export DATABASE_URL
  (cd "$FROM" && "$ROOT/.venv/bin/upper-rook" "$@" 8>&-) || status=$?
  leave_cluster
  return "$status"
}

serve() {
  local mode=$1 name=$2 child watcher= status=0 own= asked=
  shift 2
  if [ -z "${DATABASE_URL:-}" ]; then
    own=1
    hold_cluster
    database start
    DATABASE_URL=$(database url "$name")
    export DATABASE_URL
  fi
  "$ROOT/.venv/bin/upper-rook" "$mode" "$@" &
  child=$!
  if [ -n "$own" ]; then watch_database "$child" 8>&- & watcher=$!; fi
  trap 'asked=1; kill -TERM "$child" 2>/dev/null || true' INT TERM HUP
  while kill -0 "$child" 2>/dev/null; do status=0; wait "$child" || status=$?; done
  trap '' INT TERM HUP
  [ -z "$watcher" ] || { kill "$watcher" 2>/dev/null; wait "$watcher" 2>/dev/null; } || true
  [ -z "$own" ] || leave_cluster
  # Stopped because it was told to is a clean stop; an app that was killed is a failure.
  [ "$status" -lt 128 ] || [ -z "$asked" ] || status=0
  exit "$status"
}
