"""Starts the window, or a command. The only file above both."""

from __future__ import annotations

import sys


def main() -> int:
    """karakuri [FILE | --demo] starts the window; karakuri check|pose|size|export|play|schema … runs a command."""
    arguments = sys.argv[1:]
    if arguments and arguments[0] in ("check", "pose", "size", "export", "play", "schema", "-h", "--help"):
        from karakuri.cli.main import run

        return run(arguments)
    from karakuri.workbench.start import start

    return int(start(arguments))


if __name__ == "__main__":
    sys.exit(main())
