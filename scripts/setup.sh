#!/usr/bin/env bash
# What the demo and the tests stand on: Debian packages that are missing, npm packages, the build. Safe to repeat.
# usage: scripts/setup.sh [--browser]
set -euo pipefail
cd "$(dirname "${BASH_SOURCE[0]}")/.."
log() { printf 'setup: %s\n' "$*" >&2; }
sudo=(); [ "$(id -u)" = 0 ] || sudo=(sudo -n)

command -v node >/dev/null || { log 'Node.js 20.19 or later is needed'; exit 1; }
node -e 'const [a,b]=process.versions.node.split(".").map(Number);process.exit(a>20||(a===20&&b>=19)?0:1)' ||
  { log "Node.js 20.19 or later is needed, this is $(node -v)"; exit 1; }

if [ "${1:-}" = --browser ] && ! command -v chromium >/dev/null; then
  log 'installing Chromium'
  "${sudo[@]}" apt-get update -qq >&2
  DEBIAN_FRONTEND=noninteractive "${sudo[@]}" apt-get install -y -qq --no-install-recommends chromium >/dev/null
fi

# npm ci only when the lock file is not what was installed last
stamp=node_modules/.installed-lock
if ! cmp -s package-lock.json "$stamp"; then
  log 'npm ci'
  npm ci --no-audit --no-fund --loglevel=error >&2
  cp package-lock.json "$stamp"
fi

# sources that are gone must not leave their output behind
if [ -n "${CI:-}" ]; then rm -rf packages/*/dist packages/*/dist-types; fi
log 'building'
npx --no-install tsc -b >&2
npm run --silent build -w @upsetter/core >/dev/null
npm run --silent build -w @upsetter/console >/dev/null
