# Sourced by ./rook test. Every check, in two lanes on two cores; pytest ends last, so that its summary closes the output.

python_checks() {
  ruff check . && ruff format --check . && mypy && lint-imports
}

front_end_checks() {
  cd "$ROOT/frontend" && npm run -s lint && npm run -s format && npm run -s check && npm run -s unused && npm run -s test
}

# Starts a cluster of its own, which forgets rather than waits for the disk, and stops it at the end.
start_test_database() {
  cd "$ROOT"
  PATH=$ROOT/.venv/bin:$PATH
  # Every test has a database of its own.
  export ROOK_CLUSTER=${ROOK_TEST_CLUSTER:-test-pg} ROOK_CLUSTER_SETTINGS="$1" ROOK_ROLE=createdb
  hold_cluster
  trap 'leave_cluster' EXIT
  database start
  ROOK_TEST_DATABASE=$(database url postgres)
  export ROOK_TEST_DATABASE
}

# Benchmarks keep the disk honest: no setting is relaxed.
run_benchmarks() {
  ROOK_TEST_CLUSTER=bench-pg
  start_test_database ""
  # Words name benchmarks; some take minutes and run only when they are named.
  if [ $# -gt 0 ]; then
    local one
    for one in "$@"; do python "benchmarks/$one.py"; done
    return
  fi
  python benchmarks/saving.py
  python benchmarks/growth.py
  python benchmarks/start_and_size.py
  python benchmarks/judging.py
  python benchmarks/planning.py
  python benchmarks/editing.py
  python benchmarks/accuracy.py
  python benchmarks/library.py
}

# What was run is kept per test; code that runs in a process of its own, such as a server or a page, leaves no trace there.
run_changed() {
  local failed=0 ended=0
  python_checks || failed=1
  TESTMON_DATAFILE=$ROOK_DATA/testmon pytest --testmon --ignore tests/browser --ignore tests/test_launcher.py "$@" || ended=$?
  # 5: nothing was changed.
  [ "$ended" = 0 ] || [ "$ended" = 5 ] || failed=1
  return "$failed"
}

run_tests() {
  start_test_database "fsync=off
synchronous_commit=off
full_page_writes=off"
  local deep=()
  if [ "$*" = --deep ]; then deep=(--deep) && shift; fi
  if [ "${1:-}" = --changed ]; then shift && run_changed "$@"; return; fi
  if [ $# -gt 0 ]; then pytest "$@"; return; fi
  local failed=0
  say "checking types, style, layers and the front end …"
  (front_end_checks) >"$ROOK_DATA/front-end-checks.log" 2>&1 &
  local lane=$!
  python_checks || failed=1
  say "running the tests, while the front end's go on …"
  pytest -n "$(($(nproc) + 1))" --dist worksteal "${deep[@]}" || failed=1
  wait "$lane" || { failed=1; say "front-end checks failed:"; cat "$ROOK_DATA/front-end-checks.log"; }
  [ "$failed" = 0 ] || { say "something above failed."; return 1; }
}
