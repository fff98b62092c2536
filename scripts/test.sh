#!/usr/bin/env bash
# Every check and test: installs what is missing, then type check, lint, dependency rules, what is unused, Jest, build,
# Playwright. --quick: what needs neither database nor browser, while working.
set -euo pipefail
cd "$(dirname "${BASH_SOURCE[0]}")/.."
. scripts/debian.sh; . scripts/prepare.sh
need_node; need_packages
if [ "${1:-}" = "--quick" ]; then exec node scripts/test.mjs --quick; fi
command -v chromium >/dev/null || install_debian chromium
mkdir -p .data
trap 'PG_MODE=test scripts/pg.sh stop || true' EXIT
trap 'exit 130' INT TERM
TEST_DATABASE_URL="$(PG_MODE=test scripts/pg.sh start)"
export TEST_DATABASE_URL
node scripts/test.mjs "$@"
