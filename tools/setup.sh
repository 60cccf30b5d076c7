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
case $stamp in
    *-dev)
        command -v Xvfb >/dev/null || missing+=(xvfb)
        command -v desktop-file-validate >/dev/null || missing+=(desktop-file-utils)
        command -v appstreamcli >/dev/null || missing+=(appstream)
        ;;
esac
python=$(command -v python3.11 || command -v python3 || true)
[ -n "$python" ] || missing+=(python3)
[ -z "$python" ] || "$python" -c 'import ensurepip, venv' 2>/dev/null || missing+=(python3-venv)

if [ ${#missing[@]} -gt 0 ]; then
    if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null; then
        say "step 1 of 3: about to install, as root, with apt-get: ${missing[*]}"
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
[ -x "$venv/bin/python" ] || { say "step 2 of 3: making the virtual environment"; "$python" -m venv "$venv"; }
# one line that counts up on a terminal, a few lines elsewhere
told() {
    local shown=0 total=$1 name
    while read -r word name _; do
        [ "$word" = Collecting ] || continue
        shown=$((shown + 1))
        if [ -t 2 ]; then
            printf '\rumber: %d of %d  %s\033[K' "$shown" "$total" "${name%%=*}" >&2
        elif [ $((shown % 10)) = 0 ]; then
            say "$shown of $total"
        fi
    done
    [ ! -t 2 ] || printf '\r\033[K' >&2
}
for list in "$root/requirements-setup.lock" "$lock"; do
    total=$(grep -c '==' "$list")
    say "step 3 of 3: installing the $total locked packages of ${list##*/} (once; a minute or two)"
    "$venv/bin/python" -m pip install --disable-pip-version-check --progress-bar off --require-hashes -r "$list" | told "$total"
done
touch "$stamp"
# the development lock holds everything the program needs
case $stamp in *-dev) touch "$venv/.ready" ;; esac
