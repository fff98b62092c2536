#!/usr/bin/env bash
# A private PostgreSQL cluster on loopback, for the application (PG_MODE=dev) or its tests (PG_MODE=test).
# usage: pg.sh start|stop|status|reset      start prints the connection address
# Debian's default cluster is neither needed nor disturbed: own folder, own port, own password.
set -euo pipefail
ROOT="$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd -P)"; APP=gearsense; MODE="${PG_MODE:-dev}"
NAME=$([ "$MODE" = test ] && echo pg-test || echo pg); KEY="$(printf %s "$ROOT" | sha256sum | cut -c1-12)"
. "$ROOT/scripts/debian.sh"

find_bin() { local b; for b in $(ls -d /usr/lib/postgresql/*/bin 2>/dev/null | sort -Vr); do [ -x "$b/postgres" ] && { echo "$b"; return; }; done; true; }
BIN="$(find_bin)"
if [ -z "$BIN" ]; then
  # must stand before the package is installed: then Debian makes no cluster of its own
  if [ ! -e /etc/postgresql-common/createcluster.conf ]; then
    as_root mkdir -p /etc/postgresql-common
    printf 'create_main_cluster = false\nstart_conf = manual\n' | as_root tee /etc/postgresql-common/createcluster.conf >/dev/null
  fi
  install_debian postgresql
  BIN="$(find_bin)"
  [ -n "$BIN" ] || { echo "PostgreSQL was installed but its programs are not under /usr/lib/postgresql." >&2; exit 1; }
fi
# the server refuses to run as root: there it runs as the package's own user
if [ "$(id -u)" = 0 ]; then RUN=(runuser -u postgres --); OWNER=postgres; else RUN=(); OWNER="$(id -un)"; fi

pick_dir() {
  local d="$ROOT/.data/$NAME"; mkdir -p "$d"; [ "$(id -u)" = 0 ] || { chmod 700 "$d"; echo "$d"; return; }
  chown "$OWNER": "$d"; chmod 700 "$d"
  if (cd / && "${RUN[@]}" test -w "$d" -a -x "$d") 2>/dev/null; then echo "$d"; return; fi
  rmdir "$d" 2>/dev/null || true
  d="/var/lib/$APP/$KEY/$NAME"; mkdir -p "$d"; chown "$OWNER": "$d"; chmod 700 "$d"; echo "$d"
}
DATA="$(pick_dir)"; LOG="$DATA/server.log"; PWF="$(dirname "$DATA")/$NAME.password"; PORTF="$(dirname "$DATA")/$NAME.port"
[ -s "$DATA/PG_VERSION" ] && [ -x "/usr/lib/postgresql/$(cat "$DATA/PG_VERSION")/bin/postgres" ] && BIN="/usr/lib/postgresql/$(cat "$DATA/PG_VERSION")/bin"
exec 9>"$(dirname "$DATA")/$NAME.lock"; flock -w 120 9     # two callers at once: the second waits
cd /

init() {
  if [ -s "$DATA/PG_VERSION" ]; then
    [ -s "$PWF" ] || { echo "The database's password file $PWF is gone. Put it back from a backup, or move $DATA away to start anew." >&2; exit 1; }
    return
  fi
  find "$DATA" -mindepth 1 -delete
  (umask 077; head -c 24 /dev/urandom | od -An -tx1 | tr -d ' \n' > "$PWF")
  local tmp; tmp="$(mktemp)"; cp "$PWF" "$tmp"; chown "$OWNER": "$tmp"
  "${RUN[@]}" "$BIN/initdb" -D "$DATA" -U "$APP" --pwfile="$tmp" --auth=scram-sha-256 --encoding=UTF8 --locale=C.UTF-8 \
    --data-checksums --no-instructions $([ "$MODE" = test ] && echo --no-sync) >/dev/null
  rm -f "$tmp"
}
running() {   # pg_ctl status takes a zombie or a re-used pid for a live server
  local pid st; pid="$(head -1 "$DATA/postmaster.pid" 2>/dev/null)" || return 1
  [ -n "$pid" ] && st="$(awk '/^State/{print $2}' "/proc/$pid/status" 2>/dev/null)" || return 1
  [ "$st" != Z ] && case "$(readlink "/proc/$pid/exe")" in */postgres*) true ;; *) false ;; esac
}
taken() { (exec 3<>"/dev/tcp/127.0.0.1/$1") 2>/dev/null; }
free_port() {
  local p; p="${PG_PORT:-$(grep -xE '[0-9]+' "$PORTF" 2>/dev/null || ([ "$MODE" = test ] && echo 54430 || echo 54329))}"
  while taken "$p"; do p=$((p + 1)); done
  echo "$p"
}
url() { echo "postgres://$APP:$(cat "$PWF")@127.0.0.1:$(cat "$PORTF")/$APP"; }
start() {
  init
  if ! running; then
    rm -f "$DATA/postmaster.pid"
    local p; p="$(free_port)"; echo "$p" > "$PORTF"
    local o="-p $(cat "$PORTF") -c listen_addresses=127.0.0.1 -c unix_socket_directories='' -c logging_collector=off -c timezone=UTC -c log_timezone=UTC"
    [ "$MODE" = test ] && o="$o -c fsync=off -c synchronous_commit=off -c full_page_writes=off"
    "${RUN[@]}" "$BIN/pg_ctl" -D "$DATA" -l "$LOG" -w -t 60 -o "$o" start >/dev/null 9>&- 8>&- || { tail -20 "$LOG" >&2; exit 1; }
  fi
  export PGPASSWORD; PGPASSWORD="$(cat "$PWF")"
  local c=(-h 127.0.0.1 -p "$(cat "$PORTF")" -U "$APP")
  "$BIN/psql" "${c[@]}" -d postgres -Atqc "select 1 from pg_database where datname='$APP'" | grep -q 1 || "$BIN/createdb" "${c[@]}" "$APP"
}
case "${1:-start}" in
  start) start; url ;;
  status) running && echo running || echo stopped ;;
  stop) if running; then "${RUN[@]}" "$BIN/pg_ctl" -D "$DATA" -m fast -w stop >/dev/null; fi ;;
  reset)
    start
    export PGPASSWORD; PGPASSWORD="$(cat "$PWF")"
    c=(-h 127.0.0.1 -p "$(cat "$PORTF")" -U "$APP")
    "$BIN/dropdb" "${c[@]}" --force "$APP" && "$BIN/createdb" "${c[@]}" "$APP" ;;
  *) echo "usage: pg.sh start|stop|status|reset" >&2; exit 2 ;;
esac
