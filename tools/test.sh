#!/usr/bin/env bash
# Runs all tests on all cores; every worker has a real screen of its own (Xvfb).
# test.sh VENV [--long] [pytest arguments]. With arguments, one offscreen run with just those; --long kills the writer
# 200 times instead of 20 and feeds the readers 100 000 cases.
set -uo pipefail
venv=$1
shift
cd "$(dirname "$0")/.."
export LC_ALL=C.UTF-8
long=
if [ "${1-}" = --long ]; then
    long=yes
    export UMBER_KILL_ROUNDS=200 UMBER_CALLS=1000
    shift
fi
if [ $# -gt 0 ]; then
    QT_QPA_PLATFORM=offscreen exec "$venv/bin/python" -m pytest "$@"
fi
echo "== all tests, $(nproc) at a time, each worker on its own screen: about eight minutes on two cores"
status=0
# tests start nearly a hundred programs: compiled once, each is there a second sooner
"$venv/bin/python" -m compileall -q -j "$(nproc)" src
# what tests write to be safe on a disk stays in memory where there is room: nothing here outlives its process
if [ "$(df --output=avail -k /dev/shm 2>/dev/null | tail -n 1)" -gt 2000000 ] 2>/dev/null; then
    PYTEST_DEBUG_TEMPROOT=$(mktemp -d /dev/shm/umber-tests-XXXXXX)
    export PYTEST_DEBUG_TEMPROOT
    trap 'rm -rf "$PYTEST_DEBUG_TEMPROOT"' EXIT
fi
unset PYTHONDONTWRITEBYTECODE # pytest keeps what it made of the tests
UMBER_TEST_SCREEN=xvfb "$venv/bin/python" -m pytest tests -n "$(nproc)" --dist worksteal || status=1
[ -z "$long" ] || PYTHONPATH=src:tests "$venv/bin/python" -m attack.fuzz --cases 100000 || status=1
exit $status
