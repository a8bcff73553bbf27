#!/usr/bin/env bash
# Makes this checkout ready: system packages, Python environment, built page. Each step says what it does; a second run takes seconds.
# Usage: scripts/setup.sh run | test | check (as test, and lint)
set -euo pipefail
cd "$(dirname "$0")/.."
purpose=${1:-run}

fail() { printf '\n%s failed.\n  Why: %s\n  What to do: %s\n' "$1" "$2" "$3" >&2; exit 1; }
as_root() { if [ "$(id -u)" = 0 ]; then "$@"; elif command -v sudo >/dev/null; then sudo "$@"; else fail "Installing packages" "this needs root" "run as root, or install sudo"; fi; }

packages() {
  local want=()
  { command -v mariadbd >/dev/null || [ -x /usr/sbin/mariadbd ]; } || want+=(mariadb-server-core)
  command -v mariadb >/dev/null || want+=(mariadb-client)
  python3 -c 'import ensurepip, venv' 2>/dev/null || want+=(python3-venv)
  if [ "$purpose" != run ]; then
    command -v chromium >/dev/null || want+=(chromium)
    command -v chromedriver >/dev/null || want+=(chromium-driver)
  fi
  if [ ${#want[@]} -gt 0 ]; then
    echo "Installing from Debian's packages: ${want[*]} …"
    as_root apt-get update -qq || fail "Reading the package lists" "apt-get update did not succeed" "check the network, then run make again"
    as_root env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${want[@]}" >/dev/null || fail "Installing packages" "apt-get install ${want[*]} did not succeed" "run it by hand to see why"
  fi
  if [ -z "${RHOMBOS_DATABASE_URL:-}" ] && [ "$(id -u)" = 0 ] && ! id mysql >/dev/null 2>&1; then
    echo "Making the unprivileged account 'mysql' …"
    adduser --system --group --no-create-home --home /nonexistent mysql >/dev/null || fail "Making the account 'mysql'" "adduser did not succeed" "make it by hand"
  fi
}

environment() {
  local stamp=.venv/.locked
  if [ ! -x .venv/bin/python ] || [ "$(cat "$stamp" 2>/dev/null)" != "$(sha256sum < requirements.lock)" ]; then
    python3 -c 'import sys; sys.exit(sys.version_info < (3, 11))' || fail "Making the Python environment" "Python 3.11 or newer is needed, this is $(python3 -V)" "install python3.11"
    echo "Making the Python environment (a minute or two) …"
    [ -x .venv/bin/python ] || python3 -m venv .venv || fail "Making the Python environment" "python3 -m venv did not succeed" "install python3-venv"
    .venv/bin/python -m pip install -q --disable-pip-version-check --no-warn-script-location --require-hashes -r requirements.lock || fail "Installing Python packages" "pip did not succeed" "check the network, then run make again"
    # Compiled ahead, also where the environment forbids Python to write byte code: a start imports 800 modules.
    .venv/bin/python -m compileall -q -j 0 .venv/lib || true
    sha256sum < requirements.lock > "$stamp"
  fi
  .venv/bin/python -m compileall -q src || fail "Compiling the sources" "a source file is damaged" "see the message above"
}

circuits() {
  local here=src/rhombos/core/circuit
  local stamp=$here/__pycache__/.compiled sources
  sources=$({ find "$here" -name 'compiled*.py' -o -name state_table.py; echo requirements.lock; } | sort | xargs cat | sha256sum)
  if [ "$(cat "$stamp" 2>/dev/null)" != "$sources" ]; then
    echo "Compiling the engine of the circuits (half a minute, once) …"
    find "$here/__pycache__" -mindepth 1 -maxdepth 1 -type d -exec rm -rf {} +
    PYTHONPATH=src .venv/bin/python -m rhombos.core.circuit.switched.ready || fail "Compiling the engine of the circuits" "Numba did not succeed" "see the message above"
    echo "$sources" > "$stamp"
  fi
}

page() {
  command -v npm >/dev/null || fail "Building the page" "npm is not installed" "install Node 20 with npm"
  local stamp=web/node_modules/.locked
  if [ "$(cat "$stamp" 2>/dev/null)" != "$(sha256sum < web/package-lock.json)" ]; then
    echo "Installing the page's packages …"
    (cd web && npm ci --no-audit --no-fund --loglevel=error >/dev/null) || fail "Installing the page's packages" "npm ci did not succeed" "check the network, then run make again"
    sha256sum < web/package-lock.json > "$stamp"
  fi
  local sources
  sources=$(cd web && find src public index.html package-lock.json vite.config.ts tsconfig.json -type f 2>/dev/null | sort | xargs sha256sum | sha256sum)
  if [ ! -f web/dist/index.html ] || [ "$(cat web/dist/.sources 2>/dev/null)" != "$sources" ]; then
    echo "Building the page …"
    (cd web && npm run -s build -- --logLevel warn) || fail "Building the page" "vite did not succeed" "see the message above"
    echo "$sources" > web/dist/.sources
  fi
}

packages
environment
circuits &
compiling=$!
page
# What is written is looked over meanwhile: compiling asks for one processor only.
if [ "$purpose" = check ]; then make -s lint || { wait "$compiling"; exit 1; }; fi
wait "$compiling"
