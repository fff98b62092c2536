#!/usr/bin/env bash
# The built application with demo data on a fresh database of the test cluster, for the tests in e2e/ and benchmarks/.
# E2E_JOIN=NAME: on the database of another that was started so, as it is.
set -euo pipefail
cd "$(dirname "${BASH_SOURCE[0]}")/.."
URL="${TEST_DATABASE_URL:-$(PG_MODE=test scripts/pg.sh start)}"
NAME="${E2E_JOIN:-gearsense_e2e_${PORT:-4177}}"
PSQL="$(ls -d /usr/lib/postgresql/*/bin | sort -V | tail -1)/psql"
[ -n "${E2E_JOIN:-}" ] || "$PSQL" "$URL" -qc "set client_min_messages = warning" -c "drop database if exists $NAME with (force)" -c "create database $NAME" >&2
export DATABASE_URL="${URL%/*}/$NAME" NODE_ENV=production
exec node --enable-source-maps server/dist/main.js
