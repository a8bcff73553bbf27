#!/usr/bin/env bash
# The application with its page rebuilt as you type: the server on its port, the page's own server beside it.
set -euo pipefail
cd "$(dirname "$0")/.."
trap 'kill 0' EXIT
PYTHONPATH=src .venv/bin/python -m rhombos.launch.run &
(cd web && npm run -s dev) &
wait
