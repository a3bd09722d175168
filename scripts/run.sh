# Sourced by ./rook. Runs the server with its database, and stops both.

# The server must not inherit the lock that counts its users, or it would count as one itself.
database() {
  "$ROOT/scripts/postgres.sh" "$@" 8>&- || fail "the database did not start; its log is $ROOK_DATA/${ROOK_CLUSTER:-pg}/server.log."
}

# A shared lock counts the rooks that use the cluster; the last one out stops it.
hold_cluster() { exec 8>"$ROOK_DATA/${ROOK_CLUSTER:-pg}.users"; flock -s 8; }
leave_cluster() {
  exec 8>&-
  (exec 8>"$ROOK_DATA/${ROOK_CLUSTER:-pg}.users"; if flock -n 8; then "$ROOT/scripts/postgres.sh" stop || true; fi)
}

serve() {
  local mode=$1 name=$2 child status=0 own= asked=
  shift 2
  if [ -z "${DATABASE_URL:-}" ]; then
    own=1
    hold_cluster
    database start
    DATABASE_URL=$(database url "$name")
    export DATABASE_URL
  fi
  "$ROOT/.venv/bin/upper-rook" "$mode" "$@" 8>&- &
  child=$!
  trap 'asked=1; kill -TERM "$child" 2>/dev/null || true' INT TERM HUP
  while kill -0 "$child" 2>/dev/null; do status=0; wait "$child" || status=$?; done
  trap '' INT TERM HUP
  [ -z "$own" ] || leave_cluster
  # Stopped because it was told to is a clean stop; an app that was killed is a failure.
  [ "$status" -lt 128 ] || [ -z "$asked" ] || status=0
  exit "$status"
}
