"""`mangler test`: runs the tests of recipes."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated, Any

import typer

from mangler.cli.answering import show_json, show_refusal
from mangler.cli.completion import complete_recipes
from mangler.cli.parameters import FilesUnder, RunDate


def test(
    recipes: Annotated[
        list[Path],
        typer.Argument(
            metavar="RECIPE...",
            help="Recipes, .mangler files.",
            show_default=False,
            autocompletion=complete_recipes,
        ),
    ],
    files_under: FilesUnder = None,
    run_date: RunDate = None,
    json: Annotated[
        bool, typer.Option("--json", help="Give the verdicts as JSON on standard output, for machines.")
    ] = False,
) -> int:
    """Run the tests that are under a recipe's steps.

    A failing test shows what was expected and what came out side by side, and says so when it would pass over
    another number of steps. mangler manual test shows how a test is written.

    Exit codes: 0 all pass; 1 a test fails; 2 a recipe is wrong; 3 a file cannot be read.
    """
    from mangler.cli.parameters import run_date_of
    from mangler.cli.screen import answer_console
    from mangler.cli.views.proof_view import show_verdicts
    from mangler.engine.proof.proof import prove
    from mangler.engine.run.linked_recipe import LinkedRecipe
    from mangler.engine.run.summary import mistakes_to_json
    from mangler.language.mistake import ExitCode, Refusal, worst_of

    day = run_date_of(run_date)
    codes, accounts = [0], []
    for number, path in enumerate(recipes):
        account: dict[str, Any] = {"recipe": str(path), "tests": [], "mistakes": []}
        accounts.append(account)
        try:
            verdicts = prove(LinkedRecipe.load(path, None, files_under, day).parsed)
        except Refusal as refusal:
            codes.append(refusal.code)
            account["mistakes"] = mistakes_to_json(refusal)
            if not json:
                show_refusal(refusal)
            continue
        account["tests"] = [verdict.to_json() for verdict in verdicts]
        if any(verdict.speaks_against for verdict in verdicts):
            codes.append(ExitCode.ANSWER_IS_NO)
        if not json:
            if number:
                answer_console().print()
            show_verdicts(answer_console(), str(path), verdicts)
    if json:
        show_json({"recipes": accounts})
    return worst_of(codes)
