#!/usr/bin/env bash
# Builds the wheel and works a harness with it, from a folder in which the sources aren't: what isn't packed is missed.
# wheel.sh VENV. Nothing is fetched: the environment has what the wheel needs.
set -euo pipefail
root=$(cd "$(dirname "$0")/.." && pwd)
python=$(cd "$1" && pwd)/bin/python
away=$(mktemp -d)
trap 'rm -rf "$away"' EXIT
cp -rL "$root/src" "$root/pyproject.toml" "$root/README.md" "$root/LICENSE" "$root/requirements.in" "$away"
cd "$away"
pip=("$python" -m pip --disable-pip-version-check --quiet)
"${pip[@]}" wheel --no-deps --no-build-isolation --no-index --wheel-dir wheels .
"${pip[@]}" install --no-deps --no-index --target packed wheels/*.whl
mkdir work && cd work
export PYTHONPATH=$away/packed QT_QPA_PLATFORM=offscreen XDG_DATA_HOME=$away/data XDG_CONFIG_HOME=$away/config XDG_STATE_HOME=$away/state
umber() { "$python" -m umber_trunk "$@"; }
umber jobs | grep -q trailer
umber --version
umber demo shore --save loom.umber
umber check loom.umber >/dev/null || [ $? = 1 ]
umber papers loom.umber -o papers --only cut >/dev/null
umber jobs trailer -o trailer.umber --json >/dev/null || [ $? = 1 ]
umber schema answers | "$python" -m json.tool >/dev/null
"$python" - <<'P'
import umber_trunk
from umber_trunk.app import theme  # icons, fonts and the guide are in the wheel
from importlib import resources

assert "packed" in umber_trunk.__file__, umber_trunk.__file__
data = resources.files("umber_trunk").joinpath("data")
for path in ("fonts/B612-Regular.otf", "help/user-guide.md", "figures/driven.npy", "said.lark", "sentences/en.json", "sentences/refused.json"):
    assert data.joinpath(path).is_file(), path
P
echo "the wheel works"
