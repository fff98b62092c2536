#!/usr/bin/env bash
# Starts everything and stops everything it started. See ./gearsense start --help.
set -euo pipefail
cd "$(dirname "${BASH_SOURCE[0]}")/.."
. scripts/debian.sh; . scripts/prepare.sh
PORT=4100; DEMO=1; RESET=0; HOST="${GEARSENSE_HOST:-}"; CERT="${TLS_CERT:-}"; KEY="${TLS_KEY:-}"; HOSTS="${ALLOWED_HOSTS:-}"
usage() {
  cat <<'T'
./gearsense start [--port N] [--no-demo] [--reset-demo] [--host ADDRESS [--tls-cert FILE --tls-key FILE] [--allow-host NAME]]
  --port N       serve on this port (4100)
  --host ADDRESS serve on this address of the machine, 0.0.0.0 for all, over TLS; without it on 127.0.0.1 only
  --tls-cert, --tls-key FILE   a certificate of your own; without them one is made, and its fingerprint shown
  --allow-host NAME            another name by which the devices of the bay call this machine; as often as needed
  --no-demo      load no demo data into an empty database; the browser leads through the first ten minutes
  --reset-demo   delete everything in the database and load the demo data anew; asks first
  --help         this text
Settings of the environment, for a database of your own and for several machines: docs/running.md.
Installs what is missing, builds, starts a private PostgreSQL on loopback, serves the application. Ctrl-C stops it all.
T
}
while [ $# -gt 0 ]; do
  case "$1" in
    --port) [[ "${2:-}" =~ ^[0-9]+$ ]] && [ "$2" -ge 1 ] && [ "$2" -le 65535 ] || { echo "--port needs a number from 1 to 65535." >&2; exit 2; }; PORT="$2"; shift 2 ;;
    --host) [ -n "${2:-}" ] || { echo "--host needs an address of this machine, or 0.0.0.0 for all." >&2; exit 2; }; HOST="$2"; shift 2 ;;
    --tls-cert) [ -r "${2:-}" ] || { echo "--tls-cert needs a file that can be read." >&2; exit 2; }; CERT="$(realpath "$2")"; shift 2 ;;
    --tls-key) [ -r "${2:-}" ] || { echo "--tls-key needs a file that can be read." >&2; exit 2; }; KEY="$(realpath "$2")"; shift 2 ;;
    --allow-host) [[ "${2:-}" =~ ^[A-Za-z0-9.:-]+$ ]] || { echo "--allow-host needs a name or an address." >&2; exit 2; }; HOSTS="${HOSTS:+$HOSTS,}$2"; shift 2 ;;
    --no-demo) DEMO=0; shift ;;
    --reset-demo) RESET=1; shift ;;
    --help|-h) usage; exit 0 ;;
    *) echo "Unknown flag: $1" >&2; usage >&2; exit 2 ;;
  esac
done
if [ -n "$CERT$KEY" ] && { [ -z "$CERT" ] || [ -z "$KEY" ]; }; then echo "--tls-cert and --tls-key belong together: give both." >&2; exit 2; fi
mkdir -p .data
OWN_DATABASE="${DATABASE_URL:-}"
# on a database of one's own several may run from here, on a port each
RUN=".data/start${OWN_DATABASE:+-$PORT}"
exec 8>"$RUN.lock"
flock -n 8 || { echo "Gearsense is running already from this folder, $([ -e "$RUN.address" ] && echo "at $(cat "$RUN.address")" || echo "and still starting"). Stop it with Ctrl-C where it runs." >&2; exit 1; }
[ -z "$OWN_DATABASE" ] || [ "$RESET" = 0 ] || { echo "--reset-demo is for the private database only; DATABASE_URL names another." >&2; exit 2; }
[ "${GEARSENSE_DEMO:-1}" = 1 ] || DEMO=0
if [ "$RESET" = 1 ]; then
  printf 'This deletes every job, log and account in the database of this folder and loads the demo anew. Type yes to go on: '
  read -r answer || answer=""
  [ "$answer" = yes ] || { echo "Nothing was deleted."; exit 1; }
fi
exec 7>.data/build.lock
flock 7
need_node; need_packages; need_build
exec 7>&-
taken() { (exec 3<>"/dev/tcp/127.0.0.1/$PORT") 2>/dev/null; }
# a server whose starter was killed ends by itself within a second or two
for _ in $(seq 1 25); do taken || break; sleep 0.2; done
taken && { echo "Port $PORT is used by another program. Choose another: ./gearsense start --port N" >&2; exit 1; }
SERVER=""
finish() {
  trap '' INT TERM EXIT
  if [ -n "$SERVER" ]; then kill -TERM "$SERVER" 2>/dev/null || true; wait "$SERVER" 2>/dev/null || true; fi
  [ -n "$OWN_DATABASE" ] || scripts/pg.sh stop 8>&- || true
  rm -f "$RUN.address"
}
trap finish EXIT
trap 'echo; echo "Stopping …"; exit 0' INT TERM
DATABASE_URL="${OWN_DATABASE:-$(scripts/pg.sh start)}"
if [ "$RESET" = 1 ]; then scripts/pg.sh reset; fi
TLS_FOLDER=""; SCHEME=http
if [ -n "$HOST$CERT" ]; then SCHEME=https; [ -n "$CERT" ] || TLS_FOLDER="$PWD/.data/tls"; fi
echo "$SCHEME://${HOST:-127.0.0.1}:$PORT" > "$RUN.address"
GEARSENSE_HOST="$HOST" TLS_CERT="$CERT" TLS_KEY="$KEY" TLS_FOLDER="$TLS_FOLDER" ALLOWED_HOSTS="$HOSTS" \
  DATABASE_URL="$DATABASE_URL" PORT="$PORT" GEARSENSE_DEMO="$DEMO" BACKUP_FOLDER="${BACKUP_FOLDER-$PWD/.data/backups}" GEARSENSE_STARTER="$$" NODE_ENV=production \
  node --enable-source-maps server/dist/main.js 8>&- &
SERVER=$!
wait "$SERVER" || { code=$?; SERVER=""; echo "The server ended unexpectedly (code $code). Nothing stored is lost; start it again." >&2; exit "$code"; }
SERVER=""
