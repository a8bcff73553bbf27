#!/bin/sh
# Writes what the page is built against into the folder given: the types of the interface and the table of units.
set -eu
here=$(cd "$(dirname "$0")/.." && pwd)
out=$(cd "$1" && pwd)
tmp=$(mktemp -d)
trap 'rm -rf "$tmp"' EXIT
cd "$here"
PYTHONPATH=src .venv/bin/python -m rhombos.cli interface >"$tmp/openapi.json"
PYTHONPATH=src .venv/bin/python -m rhombos.cli interface --units >"$out/units.json"
cd web
node_modules/.bin/openapi-typescript "$tmp/openapi.json" --root-types --root-types-no-schema-prefix -o "$out/schema.d.ts" >/dev/null
