#!/usr/bin/env bash
# Lint, types and layers; run by ./offsetter check and by CI.
set -euo pipefail
cd "$HERE"
BIN=$VENV/bin
python_half() {
  "$BIN/ruff" check src tests tools bench demo standins
  "$BIN/ruff" format --check src tests tools bench demo standins
  "$BIN/mypy"
  "$BIN/lint-imports"
}
front_half() {
  cd frontend
  node_modules/.bin/tsc --noEmit
  node_modules/.bin/biome check src
  node_modules/.bin/depcruise --config .dependency-cruiser.cjs src
  # The front end's types are made from the server's own document.
  node_modules/.bin/openapi-typescript src/api/openapi.json -o "$STATE/schema.d.ts" >/dev/null
  cmp "$STATE/schema.d.ts" src/api/schema.d.ts || { echo "src/api/schema.d.ts is stale: npm run types" >&2; exit 1; }
}
# Each half has a core; the first one's words wait until the other is done.
python_half >"$STATE/check-python.txt" 2>&1 & half=$!
front_half
wait "$half" || { cat "$STATE/check-python.txt" >&2; exit 1; }
cat "$STATE/check-python.txt"
echo "offsetter: lint, types and layers hold"
