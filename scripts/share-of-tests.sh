#!/usr/bin/env bash
# Prints which share of the code is tests: lines of hand-written source that git keeps, under tests/ and front-end tests,
# against everything. Data, documents, lock files and pictures are not code.
set -euo pipefail
cd "$(dirname "$0")/.."

lines() { grep -E '\.(cs|ts|tsx|mjs|css|sql|sh)$|^(start|test|juniperfall|\.ci/run)$' | { [ $# -eq 0 ] && cat || grep -E "$1"; } | tr '\n' '\0' | xargs -0 cat | wc -l; }

all=$(git ls-files | lines)
tests=$(git ls-files | lines '^tests/|^web/src/.*\.test\.tsx?$|^web/src/testing/')
awk -v tests="$tests" -v all="$all" 'BEGIN { printf "%d of %d lines are tests: %.1f %%\n", tests, all, 100 * tests / all }'
