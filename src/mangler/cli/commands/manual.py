"""`mangler manual`: the reference."""

from __future__ import annotations

from typing import Annotated

import typer


def complete_word(incomplete: str) -> list[str]:
    from mangler.manual.pages import words

    return [word for word in words() if word.startswith(incomplete)]


def manual(
    word: Annotated[
        list[str] | None,
        typer.Argument(
            metavar="[WORD]",
            help="A verb, a clause, a function, or a topic.",
            show_default=False,
            autocompletion=complete_word,
        ),
    ] = None,
) -> int:
    """Show the reference of the recipe language.

    Without a word, a list of all verbs, functions and topics. With one, its page: usage, one sentence per clause, and
    examples with the table before and after.
    """
    from mangler.cli.paging import paged
    from mangler.cli.screen import answer_console
    from mangler.cli.views.manual_view import show_page
    from mangler.manual.pages import find, overview

    pages = find(" ".join(word)) if word else [overview()]
    with paged(answer_console()):
        for number, page in enumerate(pages):
            if number:
                answer_console().print()
            show_page(answer_console(), page)
    return 0
