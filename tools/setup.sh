#!/usr/bin/env bash
# Makes the virtual environment from a lock file and checks the system libraries Qt needs.
# setup.sh ROOT VENV LOCK STAMP. Run by ./umber when the stamp is older than the lock.
set -euo pipefail
root=$1 venv=$2 lock=$3 stamp=$4

say() { printf 'umber: %s\n' "$*"; }

# package: the file that shows it is there
needed=(
    "libxcb-icccm4:libxcb-icccm.so.4" "libxcb-keysyms1:libxcb-keysyms.so.1"
    "libxcb-cursor0:libxcb-cursor.so.0" "libxcb-image0:libxcb-image.so.0"
    "libxcb-render-util0:libxcb-render-util.so.0" "libxcb-shape0:libxcb-shape.so.0"
    "libxcb-randr0:libxcb-randr.so.0" "libxcb-xkb1:libxcb-xkb.so.1"
    "libxkbcommon-x11-0:libxkbcommon-x11.so.0" "libxkbcommon0:libxkbcommon.so.0"
    "libegl1:libEGL.so.1" "libgl1:libGL.so.1" "libfontconfig1:libfontconfig.so.1"
    "libdbus-1-3:libdbus-1.so.3" "libglib2.0-0:libglib-2.0.so.0"
)
libraries=$(PATH=$PATH:/sbin:/usr/sbin ldconfig -p)
missing=()
for pair in "${needed[@]}"; do
    grep -qF "${pair#*:}" <<<"$libraries" || missing+=("${pair%%:*}")
done
case $stamp in *-dev) command -v Xvfb >/dev/null || missing+=(xvfb) ;; esac
python=$(command -v python3.11 || command -v python3 || true)
[ -n "$python" ] || missing+=(python3)
[ -z "$python" ] || "$python" -c 'import ensurepip, venv' 2>/dev/null || missing+=(python3-venv)

if [ ${#missing[@]} -gt 0 ]; then
    if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null; then
        say "installing system packages: ${missing[*]}"
        apt-get update -qq || true
        DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${missing[@]}" >/dev/null
    else
        say "some system packages are missing. Run this, then start again:"
        say "    sudo apt-get install ${missing[*]}"
        exit 1
    fi
    python=$(command -v python3.11 || command -v python3)
fi
"$python" -c 'import sys; sys.exit(sys.version_info < (3, 11))' || {
    say "Python 3.11 or newer is needed; this is $("$python" --version)."
    exit 1
}
[ -x "$venv/bin/python" ] || { say "making the virtual environment"; "$python" -m venv "$venv"; }
say "installing the locked versions (once)"
for list in "$root/requirements-setup.lock" "$lock"; do
    "$venv/bin/python" -m pip install -qq --disable-pip-version-check --require-hashes -r "$list"
done
touch "$stamp"
# the development lock holds everything the program needs
case $stamp in *-dev) touch "$venv/.ready" ;; esac
