"""The `mangler` program."""

from __future__ import annotations

import sys


def main() -> None:
    from mangler.cli import signals, streams
    from mangler.cli.answering import answered

    try:
        streams.prepare()
        signals.listen()
        code = answered(_program)
        streams.finish()
    except KeyboardInterrupt:  # a second one, while the first was answered
        code = 130
    sys.exit(code)


def _program() -> int:
    # Answered before anything else is loaded.
    if sys.argv[1:] == ["--version"]:
        from mangler import __version__

        sys.stdout.write(f"mangler {__version__}\n")
        return 0
    from mangler.cli import shell_completion

    if shell_completion.asked(sys.argv[1:]):
        return shell_completion.answer(sys.argv[1:])
    from mangler.cli.main import run_program

    return run_program()


if __name__ == "__main__":
    main()
