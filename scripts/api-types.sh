#!/bin/bash
# Generates frontend/src/api/schema.ts from the OpenAPI document; with --check, fails on a drift.
set -euo pipefail
cd "$(dirname "$0")/.."
target=frontend/src/api/schema.ts
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
.venv/bin/python -m mildhusk.api.openapi > "$work/openapi.json"
(cd frontend && node_modules/.bin/openapi-typescript "$work/openapi.json" \
  --default-non-nullable=false -o "$work/raw.ts" >/dev/null)
# By the front end's own rules, as if it stood there.
(cd frontend && node_modules/.bin/prettier --stdin-filepath src/api/schema.ts) \
  < "$work/raw.ts" > "$work/schema.ts"
if [ "${1:-}" = --check ]; then
  cmp -s "$work/schema.ts" "$target" ||
    { echo "$target is stale: run make types" >&2; exit 1; }
else
  cp "$work/schema.ts" "$target"
fi
