#!/usr/bin/env bash
# Prepares the virtual environment (and, with --browser, Chromium). Quick when nothing has changed.
set -euo pipefail
cd "$(dirname "$0")/.."
say() { printf '· %s\n' "$*"; }
as_root() { if [ "$(id -u)" = 0 ]; then "$@"; else sudo "$@"; fi; }
apt_get() { as_root apt-get update -qq && DEBIAN_FRONTEND=noninteractive as_root apt-get install -y -qq "$@" >/dev/null; }

find_python() {
  local candidate
  for candidate in python3.11 python3.12 python3.13 python3; do
    if "$candidate" -c 'import sys; sys.exit(sys.version_info < (3, 11))' 2>/dev/null; then
      echo "$candidate"; return
    fi
  done
}

python="$(find_python || true)"
if [ -z "$python" ]; then
  say "Python 3.11 not found: installing it from Debian's packages"
  apt_get python3 python3-venv
  python="$(find_python)"
fi

if [ ! -x .venv/bin/pip ]; then
  say "Creating the virtual environment (.venv) with $("$python" --version)"
  if ! "$python" -m venv .venv 2>/dev/null; then
    say "The venv module is missing: installing it from Debian's packages"
    apt_get python3-venv
    "$python" -m venv .venv
  fi
fi

stamp=.venv/.installed
wanted="$(cat requirements.lock pyproject.toml | sha256sum | cut -d' ' -f1)"
if [ "$(cat "$stamp" 2>/dev/null || true)" != "$wanted" ]; then
  say "Installing packages from requirements.lock (about a minute the first time)"
  .venv/bin/python -m pip install --quiet --disable-pip-version-check --require-hashes -r requirements.lock
  .venv/bin/python -m pip install --quiet --disable-pip-version-check --no-deps --no-build-isolation --editable .
  echo "$wanted" > "$stamp"
else
  say "Packages are up to date"
fi

if [ "${1:-}" = --browser ] && [ ! -x /usr/bin/chromium-headless-shell ] && [ ! -x /usr/bin/chromium ]; then
  say "Installing Chromium from Debian's packages for the interface tests"
  apt_get chromium-headless-shell || apt_get chromium
fi
