#!/usr/bin/env bash
# Proves that both commands work on a machine where nothing was installed by hand: makes a bare Debian 12 (debootstrap,
# minbase) in a folder, copies this checkout into it, and runs ./rook demo and ./rook test there, as root or as an
# ordinary user. Needs root and debootstrap.
#   scripts/fresh.sh [FOLDER] [--user] [--keep] [-- pytest …]    FOLDER is made anew; --keep leaves it
#   scripts/fresh.sh --setup-only [--times N]                    only ./rook setup, N times from nothing; counts failures
set -euo pipefail
HERE=$(cd "$(dirname "$(readlink -f "$0")")/.." && pwd -P)
FRESH='' KEEP='' AS_USER='' SETUP_ONLY='' TIMES=1
while [ $# -gt 0 ]; do
  case $1 in
    --keep) KEEP=1 ;;
    --user) AS_USER=1 ;;
    --setup-only) SETUP_ONLY=1 ;;
    --times) TIMES=$2; shift ;;
    --) shift; break ;;
    *) FRESH=$1 ;;
  esac
  shift
done
FRESH=${FRESH:-$(mktemp -d)/fresh}
[ "$(id -u)" = 0 ] || { echo "fresh.sh: run it as root: it makes a root of its own." >&2; exit 2; }
command -v debootstrap >/dev/null || { echo "fresh.sh: install debootstrap first." >&2; exit 2; }
case $FRESH in / | '') echo "fresh.sh: give a folder of its own." >&2; exit 2 ;; esac

mirror=$(apt-get indextargets --format '$(REPO_URI)' 'Created-By: Packages' 'Component: main' | grep -v security | head -1)
clean_up() {
  local part
  for part in dev/shm dev/pts dev proc sys; do umount -l "$FRESH/$part" 2>/dev/null || true; done
  [ -n "$KEEP" ] || rm -rf --one-file-system "$FRESH"
}
trap clean_up EXIT
seconds() { local from=$1; printf '%d s' $((SECONDS - from)); }

rm -rf --one-file-system "$FRESH"
mkdir -p "$FRESH"
from=$SECONDS
debootstrap --variant=minbase bookworm "$FRESH" "$mirror" >"$FRESH.log" 2>&1 || { tail -5 "$FRESH.log" >&2; exit 1; }
echo "fresh.sh: a bare Debian 12 in $(seconds "$from")"
for part in proc sys dev dev/pts dev/shm; do mount --rbind "/$part" "$FRESH/$part" 2>/dev/null || mount --bind "/$part" "$FRESH/$part"; done

# How this machine reaches its package sources, where that is set up: names, addresses, certificates.
for file in /etc/resolv.conf /etc/hosts /etc/apt/sources.list /etc/apt/sources.list.d/. /etc/apt/apt.conf.d/. /etc/apt/auth.conf.d/. \
  /etc/apt/keyrings/. /etc/apt/trusted.gpg.d/. /usr/share/keyrings/. /usr/local/share/ca-certificates/. /etc/pip.conf /root/.config/pip/. /root/.npmrc /root/.netrc; do
  [ -e "$file" ] || continue
  mkdir -p "$FRESH$(dirname "$file")"
  cp -aL "$file" "$FRESH${file%.}" 2>/dev/null || true
done
for variable in SSL_CERT_FILE PIP_CERT CURL_CA_BUNDLE NODE_EXTRA_CA_CERTS REQUESTS_CA_BUNDLE; do
  file=${!variable:-}
  [ -n "$file" ] && [ -e "$file" ] || continue
  # Debian's own bundle comes with its package, which the launcher has to ask for.
  case $file in /etc/ssl/certs/*) continue ;; esac
  mkdir -p "$FRESH$(dirname "$file")"
  cp -L "$file" "$FRESH$file"
done

place=/opt/upper-rook
mkdir -p "$FRESH$place"
(cd "$HERE" && git ls-files -z | xargs -0 cp --parents -t "$FRESH$place" 2>/dev/null) || true
who=root
if [ -n "$AS_USER" ]; then
  who=fitter
  chroot "$FRESH" useradd -m "$who"
  # Without sudo an administrator installs what the launcher names; here that is what it says it lacks.
  chown -R 1000:1000 "$FRESH$place"
  mkdir -p "$FRESH/home/$who/.config"
  cp -a "$FRESH/root/.config/pip" "$FRESH/home/$who/.config/" 2>/dev/null || true
  cp -a "$FRESH/root/.npmrc" "$FRESH/home/$who/" 2>/dev/null || true
  chown -R 1000:1000 "$FRESH/home/$who"
fi
inside() { chroot "$FRESH" su -s /bin/bash "$who" -p -c "cd $place && HOME=\$(getent passwd $who | cut -d: -f6) PATH=/usr/local/sbin:/usr/local/bin:/usr/sbin:/usr/bin:/sbin:/bin $*"; }
unset DATABASE_URL ROOK_DATA ROOK_CLUSTER

if [ -n "$AS_USER" ]; then
  lacking=$(inside ./rook setup 2>&1 | sed -n 's/.*--no-install-recommends \(.*\), then.*/\1/p' || true)
  echo "fresh.sh: an ordinary user is told to have installed: $lacking"
  # shellcheck disable=SC2086
  chroot "$FRESH" bash -c "apt-get update -q && DEBIAN_FRONTEND=noninteractive apt-get install -yq --no-install-recommends $lacking chromium-headless-shell ngspice sox nginx-light libatomic1" >>"$FRESH.log" 2>&1
fi

# From nothing each time: only what Debian's packages and the registries' caches hold is there from the time before.
if [ -n "$SETUP_ONLY" ]; then
  failed=0
  for time in $(seq "$TIMES"); do
    rm -rf "$FRESH$place/.venv" "$FRESH$place/.data" "$FRESH$place/frontend/node_modules" "$FRESH$place/frontend/dist"
    from=$SECONDS
    if inside ./rook setup >"$FRESH.setup.log" 2>&1; then echo "fresh.sh: set-up $time of $TIMES in $(seconds "$from")"
    else failed=$((failed + 1)); tail -5 "$FRESH.setup.log" >&2; echo "fresh.sh: set-up $time of $TIMES failed" >&2; fi
    ! grep -q 'once more' "$FRESH.setup.log" || grep 'once more' "$FRESH.setup.log"
  done
  echo "fresh.sh: $((TIMES - failed)) of $TIMES set-ups worked"
  exit "$((failed > 0))"
fi

from=$SECONDS
inside ./rook demo --port 18765 >"$FRESH.demo.log" 2>&1 &
demo=$!
until grep -q 'Upper Rook is at' "$FRESH.demo.log"; do
  kill -0 "$demo" 2>/dev/null || { cat "$FRESH.demo.log" >&2; echo "fresh.sh: ./rook demo failed" >&2; exit 1; }
  sleep 1
done
echo "fresh.sh: ./rook demo answers after $(seconds "$from")"
pkill -INT -f 'upper-rook demo --port 18765' || true
wait "$demo" || true

from=$SECONDS
inside ./rook test "$*" >"$FRESH.test.log" 2>&1 || { tail -30 "$FRESH.test.log" >&2; echo "fresh.sh: ./rook test failed" >&2; exit 1; }
tail -1 "$FRESH.test.log"
echo "fresh.sh: ./rook test passed in $(seconds "$from")"
