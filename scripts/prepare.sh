# Sourced: checks Node, installs npm packages from the lock file when it changed, builds when a source changed.
need_node() {
  command -v node >/dev/null || { echo "Node 20.19 or newer is needed and was not found." >&2; exit 1; }
  node -e 'const [a,b]=process.versions.node.split(".").map(Number);process.exit(a>20||(a===20&&b>=19)?0:1)' \
    || { echo "Node 20.19 or newer is needed; this is $(node -v)." >&2; exit 1; }
}
need_packages() {
  local want; want="$(sha256sum package-lock.json | cut -d' ' -f1)"
  [ "$(cat node_modules/.gearsense-lock 2>/dev/null)" = "$want" ] && return
  echo "Installing npm packages from the lock file …" >&2
  npm ci --no-audit --no-fund --loglevel=error >&2 || { echo "npm could not install the packages. Check the network, then run the command again." >&2; exit 1; }
  echo "$want" > node_modules/.gearsense-lock
}
need_build() {
  local sources=(core/src simulator/src contract/src server/src web/src cli/src evaluation/src web/index.html web/vite.config.ts web/service-worker.config.ts package-lock.json tsconfig.base.json)
  if [ -e web/dist/.built ] && [ -z "$(find "${sources[@]}" -newer web/dist/.built -print -quit)" ]; then return; fi
  echo "Building …" >&2
  npm run --silent build >&2 || { echo "The build failed; see above." >&2; exit 1; }
  touch web/dist/.built
}
