"""`mangler help`: what a command does, and its options."""

from __future__ import annotations

from typing import Annotated, Any

import typer


def complete_command(context: typer.Context, incomplete: str) -> list[str]:
    group: Any = context.find_root().command
    return [name for name in group.list_commands(context) if name.startswith(incomplete)]


def show_help(
    context: typer.Context,
    command: Annotated[
        str | None,
        typer.Argument(
            metavar="[COMMAND]",
            help="A command, as run. For a verb or a function: mangler manual WORD.",
            show_default=False,
            autocompletion=complete_command,
        ),
    ] = None,
) -> int:
    """Show what a command does and its options, as its --help does; without a name, all commands.

    Exit codes: 0 done; 2 there is no such command.
    """
    from rich.text import Text

    from mangler.cli.paging import paged
    from mangler.cli.screen import answer_console
    from mangler.language.mistake import nearest, wrong_recipe

    root = context.find_root()
    group: Any = root.command
    if command is None:
        shown = group.get_help(root)
    else:
        asked = group.get_command(root, command)
        if asked is None:
            close = nearest(command, group.list_commands(root))
            advice = f"Nearest: {close[0]}. " if close else ""
            raise wrong_recipe(
                "unknown-command",
                f'there is no command "{command}"',
                f"{advice}mangler help lists all; mangler manual {command} looks in the reference.",
            )
        shown = asked.get_help(type(root)(asked, info_name=command, parent=root))
    with paged(answer_console()):
        answer_console().print(Text.from_ansi(shown.rstrip()), soft_wrap=True)
    return 0
