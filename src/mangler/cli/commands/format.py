"""`mangler format`: recipes in their one canonical layout."""

from __future__ import annotations

from typing import Annotated, Any

import typer

from mangler.cli.answering import show_answer, show_json, show_line, show_refusal
from mangler.cli.completion import complete_recipes

RecipesArgument = Annotated[
    list[str],
    typer.Argument(
        metavar="RECIPE...",
        help="Recipes, .mangler files; - reads one from standard input and writes it to standard output.",
        show_default=False,
        autocompletion=complete_recipes,
    ),
]
CheckOption = Annotated[
    bool, typer.Option("--check", help="Write nothing; exit code 1 if a recipe is laid out otherwise.")
]
JsonOption = Annotated[
    bool, typer.Option("--json", help="Give the answer as JSON on standard output, for machines.")
]


def format_recipes(
    recipes: RecipesArgument,
    check: CheckOption = False,
    json: JsonOption = False,
) -> int:
    """Put recipes into the canonical layout, in their files.

    One statement a line, clauses in the reference's order, long statements broken at clauses, the tables of tests
    lined up; comments and blank lines stay. The recipe means the same as before. A recipe with mistakes is left as
    it is.

    Exit codes: 0 done; 1 with --check, a recipe is laid out otherwise; 2 a recipe is wrong; 3 a file cannot be
    read or written.
    """
    from mangler.engine.run.summary import mistakes_to_json
    from mangler.language.mistake import ExitCode, Refusal, worst_of, wrong_recipe
    from mangler.recipes.recipe_layout import first_difference, laid_out, load_text, replace_recipe

    if json and "-" in recipes and not check:
        raise wrong_recipe(
            "options-conflict",
            "--json and the recipe cannot both take standard output",
            "Leave --json out, or add --check.",
        )
    codes, accounts = [0], []
    for name in recipes:
        account: dict[str, Any] = {"recipe": name, "changed": False, "mistakes": []}
        accounts.append(account)
        try:
            text = load_text(name)
            formatted = laid_out(name, text)
            account["changed"] = formatted != text
            if not check:
                if name == "-":
                    show_answer(formatted)
                elif account["changed"]:
                    replace_recipe(name, formatted)
        except Refusal as refusal:
            codes.append(refusal.code)
            account["changed"] = False
            account["mistakes"] = mistakes_to_json(refusal)
            if not json:
                show_refusal(refusal)
            continue
        if check and account["changed"]:
            codes.append(ExitCode.ANSWER_IS_NO)
        if not json and name != "-":
            _tell(name, account["changed"], check, first_difference(text, formatted))
    if json:
        show_json({"recipes": accounts})
    elif check and "-" in recipes and codes[-1] == ExitCode.ANSWER_IS_NO:
        show_line("The recipe is not in the canonical layout.")
    return worst_of(codes)


def _tell(name: str, changed: bool, check: bool, line: int) -> None:
    if changed:
        show_line(
            f"{name}: not in the canonical layout, from line {line} on" if check else f"{name}: laid out anew"
        )
    else:
        show_line(f"{name}: as it should be")
