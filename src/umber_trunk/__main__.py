"""Start of the program: the shell commands, or the window."""

from umber_trunk.cli.main import main

if __name__ == "__main__":
    raise SystemExit(main())
