#!/usr/bin/env bash
# Every command of Kavix: installs what is missing, builds what has changed, then runs.
set -euo pipefail
cd "$(dirname "${BASH_SOURCE[0]}")/.."
command=${1:-demo}

say() { printf '%s\n' "$*" >&2; }

debian() {
  if [ "$(id -u)" != 0 ] || ! command -v apt-get >/dev/null; then
    say "Please install these Debian packages first: $*"
    exit 1
  fi
  say "Installing $* …"
  apt-get update -qq >&2
  DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "$@" >&2
}

install() {
  if [ -e node_modules/.kavix-installed ] && cmp -s package-lock.json node_modules/.kavix-installed; then return; fi
  if ! command -v cc >/dev/null || ! command -v make >/dev/null || ! command -v python3 >/dev/null; then
    debian build-essential python3
  fi
  # sqlite3 is compiled here: node-gyp takes Node's own headers instead of asking the network for them.
  local node
  node=$(dirname "$(dirname "$(readlink -f "$(command -v node)")")")
  for dir in "$node" /usr /usr/local; do
    if [ -e "$dir/include/node/node.h" ]; then export npm_config_nodedir=$dir && break; fi
  done
  say "Installing packages (the first time takes a few minutes) …"
  # Not `npm ci`: it insists on the optional packages of platforms that not every registry carries.
  npm install --no-save --no-audit --no-fund --loglevel=error >&2
  cp package-lock.json node_modules/.kavix-installed
}

build() {
  if [ -e dist/.built ] && [ -z "$(find src demo public tools/build.mjs astro.config.ts package-lock.json -newer dist/.built -print -quit 2>/dev/null)" ]; then return; fi
  say "Building …"
  rm -f dist/.built
  node tools/build.mjs >&2
  touch dist/.built
}

browser() {
  if ! command -v chromium >/dev/null || ! command -v chromedriver >/dev/null; then debian chromium chromium-driver; fi
}

install
case $command in
  demo)
    build
    exec node dist/start/production.mjs
    ;;
  dev)
    node tools/build.mjs --threads >&2
    exec node --enable-source-maps dist/start/development.mjs
    ;;
  test)
    browser
    build
    exec bash tools/test.sh
    ;;
  test-long)
    build
    # 30,000 sequences in parts, each a process and a seed of its own: a part that fails is found again by its seed.
    seed=${KAVIX_SEED:-$RANDOM}
    for part in $(seq 15); do
      say "Part $part of 15, seed $((seed + part))"
      KAVIX_SEED=$((seed + part)) KAVIX_RUNS=2000 npx mocha --config .mocharc.json --exit test/desk/faults.test.ts
    done
    KAVIX_KILLS=400 exec npx mocha --config .mocharc.json --exit test/api/restart.test.ts
    ;;
  verify)
    build
    exec node --enable-source-maps dist/start/verify.mjs
    ;;
  market)
    exec npx tsx tools/market.ts
    ;;
  bench)
    browser
    build
    shift
    exec node tools/bench.mjs "$@"
    ;;
  pictures)
    browser
    build
    exec npx tsx tools/pictures.ts
    ;;
  *)
    say "Unknown command $command: demo, dev, test, test-long, verify, market, bench or pictures."
    exit 1
    ;;
esac
