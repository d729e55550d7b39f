#!/usr/bin/env bash
# The checks of the code, then every test. Ends with one line that counts them all.
set -uo pipefail
cd "$(dirname "${BASH_SOURCE[0]}")/.."
failed=0
passed=0
step() {
  local name=$1
  shift
  if "$@"; then passed=$((passed + 1)); else failed=$((failed + 1)) && printf '✗ %s\n' "$name"; fi
}
step 'types' npx tsc --noEmit -p tsconfig.json
step 'style' npx eslint .
step 'format' npx prettier --check --log-level warn .
step 'import rules' npx depcruise --config .dependency-cruiser.cjs --output-type err src

report=$(mktemp)
for suite in core desk api browser; do
  if compgen -G "test/$suite/*.test.ts" >/dev/null; then
    printf '\n%s\n' "$suite"
    npx mocha --config .mocharc.json --exit --reporter tools/counting-reporter.cjs --reporter-option "output=$report" "test/$suite/**/*.test.ts" || true
    read -r p f <"$report" || { p=0 && f=1; }
    passed=$((passed + ${p:-0}))
    failed=$((failed + ${f:-1}))
    : >"$report"
  fi
done
rm -f "$report"
printf '\n%d passed, %d failed\n' "$passed" "$failed"
[ "$failed" = 0 ]
