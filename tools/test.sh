#!/usr/bin/env bash
# Runs the window's tests in a real window under Xvfb and, beside that, all others offscreen.
# test.sh VENV [--long] [pytest arguments]. With arguments, one offscreen run with just those; --long kills the writer
# 200 times instead of 20 and feeds the readers 100 000 cases.
set -uo pipefail
venv=$1
shift
cd "$(dirname "$0")/.."
export PYTHONDONTWRITEBYTECODE=1 LC_ALL=C.UTF-8
long=
if [ "${1-}" = --long ]; then
    long=yes
    export UMBER_KILL_ROUNDS=200
    shift
fi
if [ $# -gt 0 ]; then
    QT_QPA_PLATFORM=offscreen exec "$venv/bin/python" -m pytest "$@"
fi
exec 3< <(exec Xvfb -displayfd 1 -screen 0 1280x800x24 -nolisten tcp 2>/dev/null)
xvfb=$!
real=$(mktemp)
trap 'kill "$xvfb" 2>/dev/null; rm -f "$real"' EXIT
read -r -t 20 display <&3 || { echo "Xvfb did not start"; exit 1; }
DISPLAY=:$display QT_QPA_PLATFORM=xcb "$venv/bin/python" -m pytest tests/app --ignore=tests/app/test_parts.py >"$real" 2>&1 &
window=$!
status=0
echo "== offscreen"
QT_QPA_PLATFORM=offscreen "$venv/bin/python" -m pytest tests --ignore=tests/app/test_window.py --ignore=tests/app/test_durable.py || status=1
[ -z "$long" ] || PYTHONPATH=src:tests "$venv/bin/python" -m attack.fuzz --cases 100000 || status=1
echo "== in a real window (Xvfb)"
wait "$window" || status=1
cat "$real"
exit $status
