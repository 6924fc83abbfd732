"""The program's commands, in the order of the work. Each is imported when it is called, not before."""

from __future__ import annotations

import functools
import inspect
import signal
import sys
from collections.abc import Callable
from typing import Any

import typer

from mangler.cli.answering import show_answer
from mangler.cli.command_line import OwnCommand, OwnProgram
from mangler.cli.commands.check import check
from mangler.cli.commands.compare import compare
from mangler.cli.commands.demo import demo
from mangler.cli.commands.draft import draft
from mangler.cli.commands.explain import explain
from mangler.cli.commands.format import format_recipes
from mangler.cli.commands.help import show_help
from mangler.cli.commands.history import history
from mangler.cli.commands.look import look
from mangler.cli.commands.manual import manual
from mangler.cli.commands.profile import profile
from mangler.cli.commands.run import run
from mangler.cli.commands.test import test
from mangler.cli.commands.trial import try_steps
from mangler.cli.signals import Ended
from mangler.cli.streams import UnreadError
from mangler.cli.words import without_passwords

app = typer.Typer(
    name="mangler",
    cls=OwnProgram,
    help="Repeatable cleaning recipes for tabular files: write the steps once, run them on every new extract,"
    " and know what each step did and that no row was lost.",
    no_args_is_help=True,
    pretty_exceptions_enable=False,
    context_settings={"help_option_names": ["-h", "--help"]},
)


def show_version(asked: bool) -> None:
    if asked:
        from mangler.cli.version import version

        show_answer(version())
        raise typer.Exit()


@app.callback()
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


def add(name: str, command: Callable[..., int]) -> None:
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


COMMANDS: dict[str, Callable[..., int]] = {
    "demo": demo,
    "look": look,
    "profile": profile,
    "draft": draft,
    "try": try_steps,
    "explain": explain,
    "check": check,
    "test": test,
    "run": run,
    "format": format_recipes,
    "compare": compare,
    "history": history,
    "manual": manual,
    "help": show_help,
}
for name, command in COMMANDS.items():
    add(name, command)


def run_program() -> int:
    """Runs the command that the command line asks for; its exit code."""
    code = app([without_passwords(word) for word in sys.argv[1:]], standalone_mode=False)
    return code if isinstance(code, int) else 0
