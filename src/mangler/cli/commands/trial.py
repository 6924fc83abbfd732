"""`mangler try`: steps tried on the first rows of a file, with the cells before and after."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from mangler.cli.answering import show_json, show_line
from mangler.cli.completion import complete_extracts, complete_parameters, complete_recipes, complete_verbs
from mangler.cli.parameters import FilesUnder, ReadWords, RunDate

if TYPE_CHECKING:
    from mangler.language.recipe import ParsedRecipe
    from mangler.language.statement import Statement
    from mangler.recipes.command_line_steps import Tried


def complete_words(incomplete: str) -> list[str]:
    """Extracts, the verbs of steps, and the functions of expressions."""
    from mangler.manual.pages import all_functions

    functions = [f"{name}(" for name in all_functions() if incomplete and name.startswith(incomplete)]
    return [*complete_extracts(incomplete), *complete_verbs(incomplete), *functions]


WordsArgument = Annotated[
    list[str],
    typer.Argument(
        metavar="FILE STEP...",
        help="The extract, - for standard input; then steps as in a recipe, each in quotes:"
        " 'trim * squeeze'; read may be first and write last. With --given, an expression alone.",
        show_default=False,
        autocompletion=complete_words,
    ),
]
GivenOption = Annotated[
    list[str] | None,
    typer.Option(
        metavar="'NAME = VALUE'",
        help="Try an expression with this value and with no file: --given 'name = \" x \"' 'trim(name)'.",
    ),
]
RecipeOption = Annotated[
    Path | None,
    typer.Option(
        metavar="PATH",
        help="A recipe whose steps are taken first, and to which --save adds.",
        autocompletion=complete_recipes,
    ),
]
ParametersOption = Annotated[
    list[str] | None,
    typer.Option(
        "--set",
        metavar="NAME=VALUE",
        help="A value for a parameter of the recipe.",
        autocompletion=complete_parameters,
    ),
]
RowsOption = Annotated[
    int | None,
    typer.Option(
        metavar="N",
        min=1,
        help="Try on so many rows. By default, on as many as it takes to see each step change something.",
        show_default=False,
    ),
]
WholeOption = Annotated[
    bool, typer.Option("--all", help="Count what the steps do over the whole file as well.")
]
SaveOption = Annotated[
    bool,
    typer.Option(
        "--save",
        help="Then write the steps to the end of the recipe, before a final write; make it if it is not there.",
    ),
]
JsonOption = Annotated[
    bool, typer.Option("--json", help="Give what happened as JSON on standard output, for machines.")
]


def try_steps(
    words: WordsArgument,
    given: GivenOption = None,
    recipe: RecipeOption = None,
    parameters: ParametersOption = None,
    run_date: RunDate = None,
    rows: RowsOption = None,
    whole: WholeOption = False,
    read: ReadWords = None,
    files_under: FilesUnder = None,
    save: SaveOption = False,
    json: JsonOption = False,
) -> int:
    """Try steps on a file's first rows, and see the cells before and after.

    Nothing is written, except for the recipe with --save. Of each step only the rows and columns are shown that it
    touches; ⟨…⟩ is what was removed, ⟦…⟧ what came in.

    Exit codes: 0 done; 1 the file does not fit the steps; 2 a step or the command line is wrong; 3 a file cannot be
    read or written.
    """
    from contextlib import closing

    from mangler.cli.parameters import run_date_of
    from mangler.cli.progress import ProgressBar
    from mangler.cli.screen import answer_console
    from mangler.cli.views.trial_view import show_trial
    from mangler.engine.run.overwriting import refuse_references_outside
    from mangler.engine.trial.trial import attempt
    from mangler.jobs.events import size_of
    from mangler.language.mistake import ExitCode
    from mangler.recipes.command_line_steps import in_scope_of, read_tried, recipe_of
    from mangler.recipes.options import read_words

    if given:
        return _try_expression(words, given, recipe, run_date, json)
    is_there = recipe is not None and (recipe.exists() or not save)
    _refuse_what_does_not_go_together(words, recipe, is_there, save, read, parameters)
    file = words[0]
    tried = read_tried(words[1:])
    _refuse_other_ways(tried, read, save)
    reading = tried.read or (read_words(read) if read is not None else None)
    base = recipe_of(reading, run_date_of(run_date))
    if recipe is not None and is_there:
        base = _loaded(recipe, parameters, files_under, run_date, tried)
    statements = in_scope_of(base, tried.steps)
    refuse_references_outside(statements, files_under)
    if tried.read is not None and not tried.steps and tried.write is None:
        return _show_reading(file, tried.read, rows, json)
    with closing(ProgressBar(file, size_of(file), wanted=not json)) as bar:
        trial = attempt(file, base, statements, rows, whole, bar, tried.write)
    if json:
        show_json({**trial.to_json(), "saved_to": str(recipe) if save else None})
    else:
        show_trial(answer_console(), trial)
    if save and recipe is not None:
        _save(recipe, statements, trial.read_as, reading, json)
    return int(ExitCode.ANSWER_IS_NO if trial.fails else ExitCode.DONE)


def _save(
    recipe: Path, steps: list[Statement], read_as: str, reading: Statement | None, silent: bool
) -> None:
    """Adds the steps to a recipe, or makes one that reads as was said, or detected."""
    from mangler.recipes.options import read_words
    from mangler.recipes.recipe_editing import save_steps

    verb = "Added to" if recipe.exists() else "Made"
    save_steps(recipe, steps, read_words(read_as) if read_as else reading)
    if not silent:
        show_line(f"{verb} {recipe}.")


def _loaded(
    recipe: Path, parameters: list[str] | None, files_under: Path | None, run_date: str | None, tried: Tried
) -> ParsedRecipe:
    """The recipe whose steps are taken first, read as is tried."""
    from mangler.cli.parameters import named_values, run_date_of
    from mangler.engine.run.linked_recipe import LinkedRecipe
    from mangler.recipes.command_line_steps import reading_as

    loaded = LinkedRecipe.load(recipe, named_values(parameters), files_under, run_date_of(run_date)).parsed
    return reading_as(loaded, tried.read) if tried.read else loaded


def _show_reading(file: str, read: Statement, rows: int | None, json: bool) -> int:
    """The first rows of a file as a `read` statement reads it, as `mangler look` shows them."""
    from mangler.cli.screen import answer_console
    from mangler.cli.views.look_view import show_look
    from mangler.engine.trial.look import look_at
    from mangler.steps.read import settings

    view = look_at(file, settings(read), 1, rows)
    if json:
        show_json(view.to_json())
    else:
        show_look(answer_console(), view, False)
    return 0


def _refuse_other_ways(tried: Tried, read: str | None, save: bool) -> None:
    """`read` and `write` among the steps are tried, and not saved."""
    from mangler.language.mistake import wrong_recipe

    said = tried.read or tried.write
    if save and said is not None:
        raise wrong_recipe(
            "options-conflict",
            f"--save adds steps to a recipe, and {said.verb} is none",
            f"Leave {said.verb} out here, and write it into the recipe.",
        )
    if tried.read is not None and read is not None:
        raise wrong_recipe(
            "options-conflict",
            "--read and the statement read both say how the file is read",
            "Leave one out.",
        )


def _refuse_what_does_not_go_together(
    words: list[str],
    recipe: Path | None,
    is_there: bool,
    save: bool,
    read: str | None,
    parameters: list[str] | None,
) -> None:
    """`is_there`: whether the recipe is read, and not made."""
    from mangler.language.mistake import wrong_recipe

    if len(words) < 2:
        raise wrong_recipe(
            "missing-argument",
            "a file and a step are needed",
            "mangler try FILE 'trim * squeeze'; an expression alone is tried with --given.",
        )
    if save and recipe is None:
        raise wrong_recipe(
            "missing-argument", "--save needs to know where", "Name the recipe: --recipe kiln-log.mangler"
        )
    if is_there and read is not None:
        raise wrong_recipe(
            "options-conflict",
            f"--read and {recipe} both say how the file is read",
            "Leave --read out, and put its words into the recipe's read statement.",
        )
    if parameters and not is_there:
        raise wrong_recipe(
            "option-without-effect", "--set goes with --recipe", "Name the recipe whose parameter it is."
        )


def _try_expression(
    words: list[str], given: list[str], recipe: Path | None, run_date: str | None, json: bool
) -> int:
    """The value of an expression on the screen. A recipe gives its functions and parameters."""
    from mangler.cli.parameters import run_date_of
    from mangler.cli.screen import answer_console
    from mangler.cli.views.cells import visible
    from mangler.engine.run.linked_recipe import LinkedRecipe
    from mangler.engine.trial.expression_trial import evaluate
    from mangler.language.mistake import wrong_recipe
    from mangler.language.scope import Scope
    from mangler.recipes.command_line_steps import scope_of

    if len(words) > 1:
        raise wrong_recipe(
            "options-conflict",
            "with --given one expression is tried, and no file",
            "mangler try --given 'x = 1' 'x + 1'",
        )
    day = run_date_of(run_date)
    names = Scope(run_date=day)
    if recipe is not None:
        names = scope_of(LinkedRecipe.load(recipe, None, None, day).parsed)
    answer = evaluate(words[0], given, names)
    if json:
        show_json({"type": answer.kind, "value": answer.value})
        return 0
    from rich.text import Text

    console = answer_console()
    shown = visible(answer.value, max(40, console.width - 20))
    console.print(Text.assemble(shown, "  ", (answer.kind, "dim")), soft_wrap=True)
    return 0
