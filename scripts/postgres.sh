#!/usr/bin/env bash
# A private PostgreSQL cluster inside ROOK_DATA, on loopback: start | stop | up | url DATABASE.
# ROOK_CLUSTER names the cluster (pg for the app, test-pg for the tests). The server refuses to run as root, so
# root hands it to the user postgres. The app's own role, rook, owns its databases and is no superuser.
set -euo pipefail
. "$(dirname "$(readlink -f "$0")")/postgres_cluster.sh"
# Clusters of earlier versions have no checksums; they can be switched on while a clean one is down.
checksums() {
  local told
  told=$(as_pg "$BIN/pg_controldata" -D "$D" 2>/dev/null) || return 0
  ! grep -q 'checksum version: *0' <<<"$told" || ! grep -q 'state: *shut down$' <<<"$told" || as_pg "$BIN/pg_checksums" --enable -D "$D" >/dev/null 2>&1 || true
}
# Data of another version is left alone, and said at once.
fits() {
  local written=$WRITTEN_BY here
  here=$("$BIN/postgres" --version | grep -o '[0-9]*' | head -1)
  [ -z "$written" ] || [ "$written" = "$here" ] || {
    echo "rook: the data in $D was written by PostgreSQL $written, and this machine has $here." >&2
    echo "rook: install Debian's postgresql-$written; or move $B away, start again, and put a backup back: ./rook restore FILE." >&2
    exit 4
  }
}
# Silent about what is there already, not about what doesn't work.
keep_trail() { PGOPTIONS='-c client_min_messages=warning' admin psql -qd "$1" -v ON_ERROR_STOP=1 -f "$TRAIL"; }
# What an earlier version let the superuser own is handed over as well.
hand_over() {
  admin psql -qd postgres <<<"do \$\$ begin
    if not exists (select from pg_roles where rolname = 'rook') then create role rook login; end if;
    if not exists (select from pg_roles where rolname = 'rook_owner') then create role rook_owner nologin; end if; end \$\$;
    alter role rook ${ROOK_ROLE:-nocreatedb} password '$(cat "$RPW")';"
  # What databases begin with; the tests' own are made without asking here.
  keep_trail template1
  [ "$1" != postgres ] || return 0
  if admin psql -Atqc "select 1 from pg_database where datname='$1'" -d postgres | grep -q 1; then
    admin psql -qd "$1" <<<"do \$\$ declare it record; begin
        for it in select format('%I.%I', schemaname, tablename) as name from pg_tables where schemaname = 'public' and tableowner <> 'rook'
        loop execute 'alter table ' || it.name || ' owner to rook'; end loop;
        for it in select format('%I.%I', schemaname, sequencename) as name from pg_sequences where schemaname = 'public' and sequenceowner <> 'rook'
        loop execute 'alter sequence ' || it.name || ' owner to rook'; end loop;
      end \$\$;"
  else
    admin createdb -O rook_owner "$1"
  fi
  # The app fills its schema; the database with the trail in it belongs to a role that nobody signs in as.
  admin psql -qd "$1" <<<"alter database \"$1\" owner to rook_owner; grant create, temporary on database \"$1\" to rook; alter schema public owner to rook;"
  keep_trail "$1"
}
case ${1:-} in
start)
  umask 077; mkdir -p "$B" "$RUN"; exec 9>"$B.lock"; flock 9
  up && exit
  chmod 711 "$ROOK_DATA"; chmod 711 "$B" "$RUN"
  [ -s "$PW" ] || od -An -N16 -tx1 /dev/urandom | tr -d ' \n' >"$PW"
  [ -s "$PORT_FILE" ] || free_port >"$PORT_FILE"
  [ "$(id -u)" != 0 ] || chown postgres: "$B" "$RUN"
  if [ ! -e "$D" ] && [ -f "$B/data-new/.compared" ]; then mv "$B/data-new" "$D"; find_programs; fi
  if [ ! -f "$D/.ok" ]; then make_cluster "$BIN" "$D"; fi
  if [ "$BIN" != "$NEWEST" ]; then "$SCRIPTS/postgres_upgrade.sh" "$BIN" "$NEWEST" || true; find_programs; fi
  fits
  checksums
  for i in {1..60}; do
    configure
    # After a kill -9 the old pid may belong to another process by now.
    p=$(head -1 "$D/postmaster.pid" 2>&-) || p=x
    [ "$(readlink "/proc/$p/cwd")" = "$D" ] || rm -f "$D/postmaster.pid" "$RUN"/.s.PGSQL.*
    as_pg "$BIN/pg_ctl" -swt60 -D "$D" -l "$B/server.log" start 9>&- 2>/dev/null && exit
    ! tail -n 5 "$B/server.log" 2>/dev/null | grep -q 'could not bind' || free_port >"$PORT_FILE"
    sleep .25
  done
  tail "$B/server.log" >&2
  exit 1 ;;
stop) ! up || as_pg "$BIN/pg_ctl" -sw -m fast -D "$D" stop ;;
up) up ;;
url)
  umask 077; exec 9>"$B.role.lock"; flock 9
  [ -s "$RPW" ] || od -An -N16 -tx1 /dev/urandom | tr -d ' \n' >"$RPW"
  hand_over "$2"
  echo "postgresql+psycopg://rook:$(cat "$RPW")@127.0.0.1:$(port)/$2" ;;
*) echo "usage: postgres.sh start | stop | up | url DATABASE" >&2; exit 2 ;;
esac
