# Sourced by the scripts of the private cluster: where it lies, which programs fit it, and making one.

ROOK_DATA=$(realpath -m "${ROOK_DATA:?}")
SCRIPTS=$(dirname "$(readlink -f "$0")")
B=$ROOK_DATA/${ROOK_CLUSTER:-pg} D=$B/data RUN=$B/run PW=$B.password RPW=$B.rook.password TRAIL=$SCRIPTS/../src/upper_rook/store/trail.sql PORT_FILE=$B.port
PROGRAMS=${ROOK_SYSTEM:-}/usr/lib/postgresql
NEWEST=$(compgen -G "$PROGRAMS/*/bin" | sort -V | tail -1)
# A cluster is of one major version, and only that one's programs start it; of a cluster that others may not look into
# the installed ones are taken.
find_programs() {
  BIN=$NEWEST
  WRITTEN_BY=$(cat "$D/PG_VERSION" 2>/dev/null || true)
  [ ! -x "$PROGRAMS/$WRITTEN_BY/bin/postgres" ] || BIN=$PROGRAMS/$WRITTEN_BY/bin
}
find_programs
# A Unix socket's path is limited to 107 bytes, and its name stands in a setting that quotes and commas would end.
[[ $RUN =~ ^[A-Za-z0-9/._-]{1,89}$ ]] || RUN=/tmp/rook-$(sha1sum <<<"$B" | cut -c1-12)
cd /; unset ${!PG*}
as_pg() {
  if [ "$(id -u)" != 0 ]; then "$@"
  elif runuser -u postgres -- test -x "$B"; then runuser -u postgres -- "$@"
  else setpriv --reuid=postgres --regid=postgres --init-groups --inh-caps=+dac_read_search --ambient-caps=+dac_read_search "$@"; fi
}
free_port() { python3 -c 'import socket; s=socket.socket(); s.bind(("127.0.0.1", 0)); print(s.getsockname()[1])'; }
port() { cat "$PORT_FILE" 2>/dev/null || true; }
up() { [ -n "$(port)" ] && "$BIN/pg_isready" -qh "$RUN" -p "$(port)"; }
admin() { PGPASSWORD=$(cat "$PW") "$BIN/$1" -h "$RUN" -p "$(port)" -U app "${@:2}"; }
# configure [FOLDER PORT]
configure() {
  as_pg tee "${1:-$D}/postgresql.auto.conf" >/dev/null <<<"listen_addresses='127.0.0.1'
port=${2:-$(port)}
unix_socket_directories='$RUN'
timezone='UTC'
log_min_error_statement=panic
${ROOK_CLUSTER_SETTINGS:-}"
}
# make_cluster PROGRAMS FOLDER
make_cluster() {
  rm -rf "$2"
  P=$(cat "$PW") as_pg bash -c '"$0" -D "$1" -U app -A scram-sha-256 -k -E UTF8 --locale=C.UTF-8 --pwfile=<(echo "$P")' "$1/initdb" "$2" >/dev/null 9>&-
  as_pg touch "$2/.ok"
}
