"""Commands with a help of their own layout, and the option that every one of them has."""

from __future__ import annotations

from typing import Any

from typer.core import TyperCommand, TyperGroup, TyperOption

from mangler.cli.help_page import command_page, program_page, usage_of


def _take_colour(_context: Any, _option: Any, value: str | None) -> str | None:
    import typer

    from mangler.cli.colour import colour_when

    if value not in (None, "always", "never"):
        raise typer.BadParameter("write --color always, or --color never")
    if value is not None:
        colour_when(value)
    return value


def colour_option() -> Any:
    """`--color always|never`, by any command; it is acted on before the command is."""
    return TyperOption(
        param_decls=["--color"],
        metavar="always|never",
        help="Colour, or none. By default on a terminal, if NO_COLOR is not set",
        is_eager=True,
        expose_value=False,
        callback=_take_colour,
        show_default=False,
    )


class OwnCommand(TyperCommand):
    """A command whose help is a page of ours."""

    def __init__(self, *words: Any, **settings: Any) -> None:
        super().__init__(*words, **settings)
        self.params.append(colour_option())

    def get_usage(self, ctx: Any) -> str:
        return f"Usage: {usage_of(self, ctx.command_path)}"

    def format_help(self, ctx: Any, formatter: Any) -> None:
        formatter.write(command_page(self, ctx.command_path))


class OwnProgram(TyperGroup):
    """The program: its help lists the commands in the order of the work."""

    def __init__(self, *words: Any, **settings: Any) -> None:
        super().__init__(*words, **settings)
        self.params.append(colour_option())

    def get_usage(self, ctx: Any) -> str:  # noqa: ARG002
        return "Usage: mangler COMMAND [OPTIONS]"

    def format_help(self, ctx: Any, formatter: Any) -> None:  # noqa: ARG002
        formatter.write(program_page(self))
