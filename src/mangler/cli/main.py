"""The program and its commands, of which only those are imported that a command line asks for."""

from __future__ import annotations

import functools
import inspect
import signal
import sys
from collections.abc import Callable, Sequence
from importlib import import_module
from typing import Any

import typer

from mangler.cli.answering import show_answer
from mangler.cli.command_line import OwnCommand, OwnProgram
from mangler.cli.signals import Ended
from mangler.cli.streams import UnreadError
from mangler.cli.words import without_passwords


def show_version(asked: bool) -> None:
    if asked:
        from mangler.cli.version import version

        show_answer(version())
        raise typer.Exit()


def program(
    version: bool = typer.Option(
        False, "--version", help="Show the version and exit.", is_eager=True, callback=show_version
    ),
) -> None:
    pass


def paragraphs(command: Callable[..., object]) -> str:
    """A command's docstring with each paragraph on one line, so that it wraps as the screen is wide."""
    blocks = inspect.cleandoc(command.__doc__ or "").split("\n\n")
    return "\n\n".join(" ".join(block.split()) for block in blocks)


def _add(app: typer.Typer, name: str, command: Callable[..., int]) -> None:
    """Makes a function a command of the program."""

    @functools.wraps(command)
    def run_it(*words: Any, **options: Any) -> int:
        try:
            return command(*words, **options)
        except BrokenPipeError:  # Typer would exit with 1
            raise UnreadError from None
        except KeyboardInterrupt:  # Typer would say nothing
            raise Ended(signal.SIGINT) from None

    app.command(name, cls=OwnCommand, help=paragraphs(command))(run_it)


COMMANDS = {
    "demo": "demo.demo",
    "look": "look.look",
    "profile": "profile.profile",
    "draft": "draft.draft",
    "try": "trial.try_steps",
    "explain": "explain.explain",
    "check": "check.check",
    "test": "test.test",
    "run": "run.run",
    "format": "format.format_recipes",
    "compare": "compare.compare",
    "history": "history.history",
    "manual": "manual.manual",
    "help": "help.show_help",
}
"""The module and the function of each, in the order of the work."""


def command_called(name: str) -> Callable[..., int]:
    """The function of a command."""
    module, _, function = COMMANDS[name].partition(".")
    found: Callable[..., int] = getattr(import_module(f"mangler.cli.commands.{module}"), function)
    return found


def program_for(words: Sequence[str]) -> typer.Typer:
    """The program with the command that a command line starts with; with all where it starts otherwise, or asks for
    help: to make the options of all of them takes a tenth of the time of a small run."""
    app = typer.Typer(
        name="mangler",
        cls=OwnProgram,
        help="Repeatable cleaning recipes for tabular files: write the steps once, run them on every new extract,"
        " and know what each step did and that no row was lost.",
        no_args_is_help=True,
        pretty_exceptions_enable=False,
        context_settings={"help_option_names": ["-h", "--help"]},
    )
    app.callback()(program)
    is_told = bool(words) and words[0] in COMMANDS and words[0] != "help"
    for name in words[:1] if is_told else COMMANDS:
        _add(app, name, command_called(name))
    return app


def run_program() -> int:
    """Runs the command that the command line asks for; its exit code."""
    words = [without_passwords(word) for word in sys.argv[1:]]
    code = program_for(words)(words, standalone_mode=False)
    return code if isinstance(code, int) else 0
