"""The program's commands, in the order of the work. Each is imported when it is called, not before."""

from __future__ import annotations

import inspect
from collections.abc import Callable

import typer

from mangler.cli.check import check
from mangler.cli.demo import demo
from mangler.cli.draft import draft
from mangler.cli.format import format_recipes
from mangler.cli.history import history
from mangler.cli.look import look
from mangler.cli.manual import manual
from mangler.cli.profile import profile
from mangler.cli.run import run
from mangler.cli.test import test
from mangler.cli.trial import try_steps

app = typer.Typer(
    name="mangler",
    help="Repeatable cleaning recipes for tabular files: write the steps once, run them on every new extract,"
    " and know what each step did and that no row was lost.",
    no_args_is_help=True,
    pretty_exceptions_enable=False,
    context_settings={"help_option_names": ["-h", "--help"]},
)


def show_version(asked: bool) -> None:
    if asked:
        from mangler import __version__

        typer.echo(f"mangler {__version__}")
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


app.command("demo", help=paragraphs(demo))(demo)
app.command("look", help=paragraphs(look))(look)
app.command("profile", help=paragraphs(profile))(profile)
app.command("draft", help=paragraphs(draft))(draft)
app.command("try", help=paragraphs(try_steps))(try_steps)
app.command("check", help=paragraphs(check))(check)
app.command("test", help=paragraphs(test))(test)
app.command("run", help=paragraphs(run))(run)
app.command("format", help=paragraphs(format_recipes))(format_recipes)
app.command("history", help=paragraphs(history))(history)
app.command("manual", help=paragraphs(manual))(manual)


def run_program() -> None:
    app()
