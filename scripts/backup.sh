#!/usr/bin/env bash
# ./gearsense backup FILE and restore FILE: everything into one archive, and back.
set -euo pipefail
WHAT="$1"; shift
usage() {
  cat <<'T'
./gearsense backup FILE     everything into one open archive (tar), also while Gearsense runs
./gearsense restore FILE    a backup in the place of everything in this folder's database; asks where there is something
What stands in the archive: docs/formats.md. With DATABASE_URL that database is meant, otherwise the one of this folder.
T
}
case "${1:-}" in --help|-h) usage; exit 0 ;; esac
[ $# -eq 1 ] && [[ "$1" != -* ]] || { usage >&2; exit 2; }
FILE="$1"; case "$FILE" in /*) ;; *) FILE="$PWD/$FILE" ;; esac
cd "$(dirname "${BASH_SOURCE[0]}")/.."
. scripts/debian.sh; . scripts/prepare.sh
mkdir -p .data
OWN_DATABASE="${DATABASE_URL:-}"
if [ "$WHAT" = restore ]; then
  for lock in .data/start.lock .data/start-*.lock; do
    [ -e "$lock" ] || continue
    exec 8>"$lock"
    flock -n 8 || { echo "Gearsense is running from this folder. Stop it with Ctrl-C where it runs, then restore." >&2; exit 1; }
  done
fi
exec 7>.data/build.lock
flock 7
need_node; need_packages; need_build
exec 7>&-
STOP=""
[ -n "$OWN_DATABASE" ] || [ "$(scripts/pg.sh status)" = running ] || STOP=1
trap '[ -z "$STOP" ] || scripts/pg.sh stop || true' EXIT
trap 'exit 130' INT TERM
DATABASE_URL="${OWN_DATABASE:-$(scripts/pg.sh start)}" BACKUP_FOLDER="${BACKUP_FOLDER-$PWD/.data/backups}" \
  node --enable-source-maps server/dist/backup/command.js "$WHAT" "$FILE"
