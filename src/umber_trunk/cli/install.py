"""The install command: launcher entry, icon, file type, man page and shell completion for the user."""

from __future__ import annotations

import argparse
import os
import shutil
import subprocess
import sys
from importlib import resources
from pathlib import Path

from umber_trunk import __version__
from umber_trunk.cli.terminal import SOUND
from umber_trunk.core.errors import InputError, UmberError

COMMANDS = {
    "install": "launcher, icon, file type, man page and completion for this user",
}

PLACES = {
    "umber-trunk.desktop": "applications/umber-trunk.desktop",
    "umber-trunk.svg": "icons/hicolor/scalable/apps/umber-trunk.svg",
    "umber-trunk-mime.xml": "mime/packages/umber-trunk-mime.xml",
    "umber-trunk.metainfo.xml": "metainfo/umber-trunk.metainfo.xml",
    "umber-trunk.1": "man/man1/umber-trunk.1",
    "umber-trunk.bash": "bash-completion/completions/umber-trunk",
}
"""File that ships → where it goes below the user's data folder."""
REFRESH = (("update-desktop-database", "applications"), ("update-mime-database", "mime"))


def add_install(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("--user", action="store_true", help="for this user, below the data folder; no rights needed")
    parser.add_argument("--remove", action="store_true", help="take it away again")
    parser.set_defaults(run=_install)


def program() -> str:
    """How the program is started from a launcher: the installed command, else this very one."""
    found = shutil.which("umber-trunk")
    checkout = Path(__file__).parents[3] / "umber"
    if found is None and not (checkout.is_file() and os.access(checkout, os.X_OK)):
        return f"{sys.executable} -m umber_trunk"
    command = found or str(checkout)
    return (
        command
        if command.replace("/", "").replace("-", "").replace("_", "").replace(".", "").isalnum()
        else f'"{command}"'
    )


def shipped(name: str) -> str:
    """The text of a file that ships for the desktop, started as this program is."""
    text = resources.files("umber_trunk").joinpath("data/desktop", name).read_text("utf-8")
    return text.replace("Exec=umber-trunk", f"Exec={program()}") if name.endswith(".desktop") else text


def data_home() -> Path:
    """The user's data folder (XDG Base Directory specification)."""
    return Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local/share")


def _install(args: argparse.Namespace) -> int:
    from umber_trunk.store.files import put_whole

    if not args.user:
        raise InputError.of("shell.say-user-it-is-installed")
    home = data_home()
    for name, place in PLACES.items():
        path = home / place
        try:
            if args.remove:
                path.unlink(missing_ok=True)
                continue
            path.parent.mkdir(parents=True, exist_ok=True)
            put_whole(path, shipped(name).encode())
        except OSError as why:
            raise UmberError.of("any.cant-be-written", path=path, why=why.strerror) from why
        print(path)
    for command, folder in REFRESH:
        if shutil.which(command) and (home / folder).is_dir():
            subprocess.run([command, str(home / folder)], check=False, capture_output=True)
    print(
        "It is gone again."
        if args.remove
        else "A double click on a harness opens it; “Umber Trunk” is among the programs."
    )
    return SOUND


def man_page() -> str:
    """The manual page, from what the commands say of themselves."""
    from umber_trunk.cli.main import known_commands

    rows = "".join(f".TP\n.B {name}\n{told}\n" for name, (_, told) in known_commands().items())
    return (
        f'.TH UMBER-TRUNK 1 "" "Umber Trunk {__version__}" "User Commands"\n.SH NAME\number-trunk \\- thinks a wiring '
        "harness through with its "
        "builder\n.SH SYNOPSIS\n.B umber-trunk\n[FILE | COMMAND [OPTIONS]]\n.SH DESCRIPTION\nWithout a command the "
        "window opens, on FILE if one "
        "is given. Each command tells its options with\n.BR \\-\\-help .\nResults are engineering estimates: the "
        "applicable local code and a "
        f"licensed person decide.\n.SH COMMANDS\n{rows}.SH EXIT STATUS\n0 sound, 1 faults found, 2 bad input, 3 "
        "doubts to answer, 4 answer not "
        "written, 70 a bug, 130 stopped, 141 reader gone.\n"
    ).replace("—", "\\(em")


def completion() -> str:
    """Completion for bash: commands, then files."""
    from umber_trunk.cli.main import known_commands

    words = " ".join(known_commands())
    return (
        f'_umber_trunk() {{\n    local word=${{COMP_WORDS[COMP_CWORD]}}\n    if [ "$COMP_CWORD" -eq 1 ]; then\n'
        f'        mapfile -t COMPREPLY < <(compgen -W "{words} --help --version" -- "$word"; compgen -f -X "!*.umber" '
        '-- "$word")\n'
        '    else\n        mapfile -t COMPREPLY < <(compgen -f -- "$word")\n    fi\n}\n'
        "complete -o filenames -F _umber_trunk umber-trunk umber ./umber\n"
    )
