"""The `mangler` program."""

from __future__ import annotations

import sys


def main() -> None:
    # Answered before anything else is loaded.
    if sys.argv[1:] == ["--version"]:
        from mangler import __version__

        sys.stdout.write(f"mangler {__version__}\n")
        return
    from mangler.cli.main import run_program

    run_program()


if __name__ == "__main__":
    main()
