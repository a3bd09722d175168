#!/usr/bin/env bash
# Brings the cluster from an older major version of PostgreSQL to a newer one while both are installed: dumped by one,
# restored by the other, compared row by row. Until all of it is the same the old cluster stays as it is.
#   postgres_upgrade.sh OLD_PROGRAMS NEW_PROGRAMS       called by postgres.sh start, which holds the lock
set -euo pipefail
. "$(dirname "$(readlink -f "$0")")/postgres_cluster.sh"
OLD=$1 NEW=$2 TO=$B/data-new KEPT=$B/data-$WRITTEN_BY
NOW=$(basename "$(dirname "$NEW")")
OLD_PORT=$(free_port) NEW_PORT=$(free_port)
exec 9>&-

say() { printf 'rook: %s\n' "$*" >&2; }
start() { configure "$2" "$3"; as_pg "$1/pg_ctl" -swt60 -D "$2" -l "$B/upgrade.log" start; }
stop() { as_pg "$1/pg_ctl" -sw -m fast -D "$2" stop 2>/dev/null || true; }
give_up() {
  stop "$NEW" "$TO"; stop "$OLD" "$D"; rm -rf "$TO"
  say "the data stays with PostgreSQL $WRITTEN_BY, which goes on working: bringing it to $NOW did not work. Its log is $B/upgrade.log; free some space if the disk is full."
}
# of OLD|NEW PROGRAM WORDS…
of() {
  local programs=$NEW port=$NEW_PORT
  [ "$1" = NEW ] || { programs=$OLD; port=$OLD_PORT; }
  # A newer pg_dump reads an older server; the other way round it refuses.
  [[ $2 != pg_dump* ]] || programs=$NEW
  PGPASSWORD=$(cat "$PW") "$programs/$2" -h "$RUN" -p "$port" -U app "${@:3}"
}
# Number and digest of the rows of every table, one line each.
contents() {
  local table
  of "$1" psql -qAtX -d "$2" -c "select format('%I.%I', schemaname, tablename) from pg_tables where schemaname not in ('pg_catalog', 'information_schema') order by 1" |
    while read -r table; do
      of "$1" psql -qAtX -d "$2" -c "select '$table', count(*), md5(string_agg(row, '' order by row)) from (select md5(t::text) as row from $table t) as rows" </dev/null
    done
}
copy() {
  local database was is
  of OLD pg_dumpall --globals-only | grep -vE '^(CREATE|ALTER) ROLE app[ ;]' | of NEW psql -qX -v ON_ERROR_STOP=1 -d postgres >/dev/null
  of OLD psql -qAtX -d postgres -c "select datname from pg_database where not datistemplate and datname <> 'postgres'" |
    while read -r database; do
      of OLD pg_dump -Fc -d "$database" </dev/null | of NEW pg_restore --create --exit-on-error -d postgres
      # Each on its own line, so that one that can't be read ends it instead of being as empty as the other.
      was=$(contents OLD "$database" </dev/null)
      is=$(contents NEW "$database" </dev/null)
      [ "$was" = "$is" ] || { echo "$database is not the same after it was copied" >&2; return 1; }
    done
}

say "the data was written by PostgreSQL $WRITTEN_BY and $NOW is here too: copying it over; the old stays until all of it was compared …"
: >"$B/upgrade.log"; chmod 666 "$B/upgrade.log"
trap give_up ERR
make_cluster "$NEW" "$TO" 2>>"$B/upgrade.log"
rm -f "$D/postmaster.pid"
start "$OLD" "$D" "$OLD_PORT" 2>>"$B/upgrade.log"
start "$NEW" "$TO" "$NEW_PORT" 2>>"$B/upgrade.log"
(copy) 2>>"$B/upgrade.log"
stop "$NEW" "$TO"; stop "$OLD" "$D"
trap - ERR
# Whoever is killed between the two moves left the new data under its own name, and the next start moves it.
as_pg touch "$TO/.compared"
rm -rf "$KEPT"
mv "$D" "$KEPT"
mv "$TO" "$D"
say "every row is the same with PostgreSQL $NOW. The old data is kept in $KEPT: remove it once you have a backup."
