#!/usr/bin/env bash
# Runs all tests offscreen and, beside that, the window tests in a real window under Xvfb.
# test.sh VENV [pytest arguments]. With arguments, one offscreen run with just those.
set -uo pipefail
venv=$1
shift
cd "$(dirname "$0")/.."
export PYTHONDONTWRITEBYTECODE=1 LC_ALL=C.UTF-8
if [ $# -gt 0 ]; then
    QT_QPA_PLATFORM=offscreen exec "$venv/bin/python" -m pytest "$@"
fi
exec 3< <(exec Xvfb -displayfd 1 -screen 0 1280x800x24 -nolisten tcp 2>/dev/null)
xvfb=$!
real=$(mktemp)
trap 'kill "$xvfb" 2>/dev/null; rm -f "$real"' EXIT
read -r -t 20 display <&3 || { echo "Xvfb did not start"; exit 1; }
DISPLAY=:$display QT_QPA_PLATFORM=xcb "$venv/bin/python" -m pytest tests/app >"$real" 2>&1 &
window=$!
status=0
echo "== offscreen"
QT_QPA_PLATFORM=offscreen "$venv/bin/python" -m pytest tests || status=1
echo "== in a real window (Xvfb)"
wait "$window" || status=1
cat "$real"
exit $status
