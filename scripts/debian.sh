# Sourced: installs what a fresh Debian machine lacks, as root or with sudo.
as_root() {
  if [ "$(id -u)" = 0 ]; then "$@"; return; fi
  command -v sudo >/dev/null || { echo "This needs root once, to install Debian packages: run it as root, or install sudo." >&2; exit 1; }
  sudo "$@"
}
install_debian() {
  echo "Installing Debian packages: $*" >&2
  { as_root apt-get update -qq && as_root env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "$@"; } >&2 </dev/null \
    || { echo "Installing $* failed. Check the network and Debian's sources, then run the command again." >&2; exit 1; }
}
