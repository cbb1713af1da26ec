#!/bin/bash
# Installs what is missing and builds the front end. Quick when there is nothing to do.
set -euo pipefail
cd "$(dirname "$0")/.."
unset PYTHONDONTWRITEBYTECODE

say() { echo "setup: $*"; }
stop() { echo "setup: $*" >&2; exit 1; }

# --- the system: PostgreSQL's server, Chromium for the tests, Pango for the bench card ---
packages=()
compgen -G '/usr/lib/postgresql/*/bin/initdb' >/dev/null || packages+=(postgresql)
for library in libpango-1.0-0 libpangoft2-1.0-0 libharfbuzz-subset0; do
  dpkg -s "$library" >/dev/null 2>&1 || packages+=("$library")
done
# Only Debian's own Python comes without it.
python3 -c 'import ensurepip' 2>/dev/null || packages+=(python3-venv)
browser=()
[ -x /usr/bin/chromium ] || browser+=(chromium)
[ -x /usr/bin/chromedriver ] || browser+=(chromium-driver)
if [ "$(id -u)" -ne 0 ]; then
  [ ${#browser[@]} -eq 0 ] || say "make test will also need these Debian packages: ${browser[*]}"
  [ ${#packages[@]} -eq 0 ] ||
    stop "please have an administrator install these Debian packages: ${packages[*]}"
else
  packages+=("${browser[@]}")
fi
if [ ${#packages[@]} -gt 0 ]; then
  command -v apt-get >/dev/null || stop "this needs Debian's packages: ${packages[*]}"
  say "installing ${packages[*]}"
  mkdir -p /etc/postgresql-common
  # We make a private cluster of our own; Debian need not start one for everybody.
  [ -e /etc/postgresql-common/createcluster.conf ] ||
    echo 'create_main_cluster = false' > /etc/postgresql-common/createcluster.conf
  export DEBIAN_FRONTEND=noninteractive
  { apt-get update -q && apt-get install -y -q --no-install-recommends "${packages[@]}"; } \
    > /tmp/mildhusk-apt.log 2>&1 ||
    stop "could not install ${packages[*]}; see /tmp/mildhusk-apt.log"
fi

# --- Python ---
command -v python3 >/dev/null || stop "Python 3.11 or newer is missing"
python3 -c 'import sys; sys.exit(sys.version_info < (3, 11))' ||
  stop "Python 3.11 or newer is needed; this is $(python3 --version)"
fingerprint() { cat "$@" | sha256sum | cut -d' ' -f1; }
done_before() { [ -e "$1" ] && [ "$(cat "$1")" = "$2" ]; }

python_state=$(fingerprint requirements/test.txt pyproject.toml)
if ! done_before .venv/.state "$python_state"; then
  say "installing Python packages"
  [ -x .venv/bin/python ] || python3 -m venv .venv ||
    stop "python3 -m venv failed; install Debian's package python3-venv"
  [ -x .venv/bin/uv ] || .venv/bin/python -m pip install -q --disable-pip-version-check uv
  .venv/bin/uv pip sync -q --require-hashes --compile-bytecode requirements/test.txt
  .venv/bin/uv pip install -q --no-deps --no-build-isolation -e .
  echo "$python_state" > .venv/.state
fi

# What calls a changed function of another file is not compiled anew by itself.
mapfile -t compiled < <(grep -rl --include='*.py' '@njit' src | LC_ALL=C sort)
compiled_state=$(fingerprint "${compiled[@]}")
if ! done_before .venv/.compiled "$compiled_state"; then
  find src -name '*.nb[ci]' -delete
  say "compiling how coats flow"
  .venv/bin/python -c 'from mildhusk.core.coating.rehearsal import rehearse; rehearse()'
  echo "$compiled_state" > .venv/.compiled
fi

# --- the front end ---
command -v node >/dev/null || stop "Node 20 or newer is missing"
[ "$(node -p 'process.versions.node.split(".")[0]')" -ge 20 ] ||
  stop "Node 20 or newer is needed; this is $(node --version)"
node_state=$(fingerprint frontend/package-lock.json)
if ! done_before frontend/node_modules/.state "$node_state"; then
  say "installing the front end's packages"
  (cd frontend && npm ci --no-audit --no-fund --loglevel=error)
  echo "$node_state" > frontend/node_modules/.state
fi
build_state=$(cd frontend && find src public index.html vite.config.ts package-lock.json -type f 2>/dev/null |
  LC_ALL=C sort | xargs sha256sum | sha256sum | cut -d' ' -f1)
if ! done_before frontend/dist/.state "$build_state"; then
  say "building the front end"
  (cd frontend && npm run --silent build -- --logLevel warn)
  echo "$build_state" > frontend/dist/.state
fi
