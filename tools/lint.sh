#!/usr/bin/env bash
# Lint and types. lint.sh VENV
set -euo pipefail
cd "$(dirname "$0")/.."
"$1/bin/python" -m ruff check .
"$1/bin/python" -m ruff format --check .
"$1/bin/python" -m mypy
PYTHONPATH=src "$1/bin/python" tools/cli_page.py --check
