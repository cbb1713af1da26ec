#!/bin/bash
# Builds the wheel with the front end in it, into dist/: pip installs it, and nothing needs Node.
set -euo pipefail
cd "$(dirname "$0")/.."
into=${1:-dist}
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
# From a copy: nothing that is built lies about where it is developed.
mkdir -p "$work/src"
mkdir -p "$work/requirements"
cp pyproject.toml "$work"
# What it was tested with, and nothing newer.
grep -oE '^[A-Za-z0-9_.-]+(\[[a-z]+\])?==[^ \\]+' requirements/run.txt > "$work/requirements/run.in"
cp -r src/mildhusk "$work/src"
find "$work/src" -name __pycache__ -prune -exec rm -rf {} +
cp -r frontend/dist "$work/src/mildhusk/frontend"
rm -f "$work/src/mildhusk/frontend/.state"
.venv/bin/python -m pip wheel -q --no-deps --no-build-isolation -w "$into" "$work"
ls "$into"/mildhusk-*.whl
