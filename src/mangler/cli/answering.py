"""How a command ends: its exit code, and the one place where errors are shown."""

from __future__ import annotations

import functools
import os
import signal
import sys
from collections.abc import Callable
from typing import Any, NoReturn, ParamSpec

import typer

Parameters = ParamSpec("Parameters")
TERMINATED = 143


def answering(command: Callable[Parameters, int]) -> Callable[Parameters, None]:
    """A command that gives its exit code; whatever it refuses is shown, and no traceback ever."""

    @functools.wraps(command)
    def ended(*args: Parameters.args, **kwargs: Parameters.kwargs) -> None:
        from mangler.language.mistake import ExitCode, Refusal, file_trouble, reason

        signal.signal(signal.SIGTERM, _terminate)
        try:
            code = command(*args, **kwargs)
            sys.stdout.flush()
        except Refusal as refusal:
            show_refusal(refusal)
            code = refusal.code
        except KeyboardInterrupt:
            show_line("Interrupted: what was not delivered yet is as it was before.")
            code = ExitCode.INTERRUPTED
        except BrokenPipeError:
            # Nobody reads any more; Python would complain when it flushes at its end.
            os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
            code = ExitCode.DONE
        except OSError as error:
            # Whatever a command asks of a path, a folder on the way to it may be closed to us.
            trouble = file_trouble(f"{error.filename or 'a file'} cannot be used: {reason(error)}")
            show_refusal(trouble)
            code = trouble.code
        raise typer.Exit(int(code))

    return ended


def _terminate(number: int, frame: Any) -> NoReturn:  # noqa: ARG001
    raise SystemExit(TERMINATED)


def show_line(text: str) -> None:
    typer.echo(text, err=True)


def show_json(answer: dict[str, Any]) -> None:
    import json

    typer.echo(json.dumps(answer, indent=2, ensure_ascii=False))


def show_refusal(refusal: Any) -> None:
    """Every mistake with its place and its way out, on standard error."""
    from mangler.cli.screen import error_console
    from mangler.language.mistake import describe

    console = error_console()
    for mistake in refusal.mistakes:
        lines = describe(mistake).split("\n")
        for number, line in enumerate(lines):
            style = "bold red" if number == 0 else "red" if set(line.strip()) == {"^"} else ""
            console.print(line, style=style, markup=False, soft_wrap=True)
        console.print()
