#!/usr/bin/env bash
# The checks of the code, then every test, in two lanes: computation, and servers with browsers. Each suite that lies
# under test/ is found by itself. Ends with one line that counts them all.
set -uo pipefail
cd "$(dirname "${BASH_SOURCE[0]}")/.."
work=$(mktemp -d)
trap 'rm -rf "$work"; kill $(jobs -p) 2>/dev/null' EXIT

# Writes "passed failed" of a step to the lane's count, and its words where it failed.
step() {
  local lane=$1 name=$2
  shift 2
  if "$@" >"$work/out" 2>&1; then echo '1 0' >>"$work/$lane.count"; else echo '0 1' >>"$work/$lane.count" && printf '✗ %s\n' "$name" && cat "$work/out"; fi
}

no_leftovers() {
  ! grep -rnE '\.(only|skip)\(' test --include='*.test.ts' && ! find test -name '*.test.ts' -size -1 | grep .
}

suite() {
  local lane=$1 name=$2 report="$work/$1.$2.report"
  compgen -G "test/$name/**/*.test.ts" >/dev/null || compgen -G "test/$name/*.test.ts" >/dev/null || return
  printf '\n%s\n' "$name"
  local code=0
  npx mocha --config .mocharc.json --exit --forbid-only --forbid-pending --reporter tools/counting-reporter.cjs --reporter-option "output=$report" "test/$name/**/*.test.ts" || code=$?
  local p=0 f=1
  [ -s "$report" ] && read -r p f <"$report"
  # A run that broke off is no run that passed.
  [ "$code" != 0 ] && [ "$f" = 0 ] && f=1
  echo "$p $f" >>"$work/$lane.count"
}

computation() {
  step a 'types' npx tsc --noEmit -p tsconfig.json
  step a 'style' npx eslint .
  step a 'format' npx prettier --check --log-level warn .
  step a 'import rules' npx depcruise --config .dependency-cruiser.cjs --output-type err src
  step a 'no test left out' no_leftovers
  for name in $(find test -mindepth 1 -maxdepth 1 -type d ! -name support ! -name api ! -name browser -printf '%f\n' | sort); do suite a "$name"; done
}

servers() {
  for name in api browser; do suite b "$name"; done
}

servers >"$work/servers.log" 2>&1 &
# Browsers wait for what they expect by the clock; computation can wait for them.
renice -n 15 -p $$ >/dev/null
computation
wait $!
cat "$work/servers.log"

printf '\nThe slowest tests\n'
cat "$work"/*.slow 2>/dev/null | sort -rn | head -20 | while read -r ms title; do printf '%7d ms  %s\n' "$ms" "$title"; done
compgen -G "$work/*.failed" >/dev/null && printf '\nWhat failed\n' && cat "$work"/*.failed
read -r passed failed < <(cat "$work"/*.count | awk '{ p += $1; f += $2 } END { print p + 0, f + 0 }')
printf '\n%d passed, %d failed\n' "$passed" "$failed"
[ "$failed" = 0 ] && [ "$passed" -gt 0 ]
