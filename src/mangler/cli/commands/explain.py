"""`mangler explain`: a recipe in plain words, and where each column of its output comes from."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from mangler.cli.answering import show_json, show_refusal
from mangler.cli.completion import complete_columns, complete_extracts
from mangler.cli.parameters import FilesUnder, GivenParameters, RecipeFile

if TYPE_CHECKING:
    from mangler.engine.plan.plan import Explain
    from mangler.insight.explanation.explanation import Explanation
    from mangler.insight.explanation.fates import Fate
    from mangler.language.mistake import Refusal
    from mangler.language.recipe import ParsedRecipe
    from mangler.table.schema import Column, Schema

FileArgument = Annotated[
    str | None,
    typer.Argument(
        metavar="[FILE]",
        help="An extract, whose columns and types are used; without it those that the recipe mentions.",
        show_default=False,
        autocompletion=complete_extracts,
    ),
]
ColumnsOption = Annotated[
    str | None,
    typer.Option(
        "--columns",
        metavar="COLUMNS",
        help="Say of these columns of the output all that happens to them on the way: 'studio, made'.",
        autocompletion=complete_columns,
    ),
]
AddedOption = Annotated[
    str | None,
    typer.Option(
        "--added",
        metavar="COLUMN",
        help="Say what the recipe would do to a column that the extract has besides: depth, or 'depth float'.",
    ),
]
PictureOption = Annotated[
    Path | None,
    typer.Option(
        "--picture",
        metavar="FILE.svg",
        help="Draw which columns of the extract each column of the output comes from.",
    ),
]
JsonOption = Annotated[
    bool, typer.Option("--json", help="Give the explanation as JSON on standard output, for machines.")
]


def explain(
    recipe: RecipeFile,
    file: FileArgument = None,
    columns: ColumnsOption = None,
    added: AddedOption = None,
    picture: PictureOption = None,
    files_under: FilesUnder = None,
    parameters: GivenParameters = None,
    json: JsonOption = False,
) -> int:
    """Say in plain words what a recipe does, step by step, and where each column of its output comes from.

    Nothing is run. With an extract every step is fitted to its columns, and the types of columns are known. Of a
    recipe with mistakes the statements that are right are explained.

    Exit codes: 0 done; 1 the recipe does not fit the extract, or has no such column; 2 the recipe or the command line
    is wrong; 3 a file cannot be read or written.
    """
    from mangler.cli.reports.picture import refuse_bad_picture, write_picture
    from mangler.insight.explanation.explanation import explain as explained
    from mangler.insight.explanation.fates import fate_of

    new = _added(added) if added is not None else None
    if picture is not None:
        refuse_bad_picture(picture, recipe, file)
    parsed, schema, refusal = _fitted(recipe, file, parameters, files_under)
    told = explained(parsed, schema, (file or "") if schema is not None else "")
    chosen = _chosen(told, columns) if columns is not None else None
    fate = fate_of(parsed, schema, new) if new is not None else None
    if picture is not None:
        write_picture(picture, told)
    if json:
        _show_json(told, fate, refusal)
    else:
        _show(told, fate, chosen)
        if refusal is not None:
            show_refusal(refusal)
    return int(refusal.code) if refusal is not None else 0


def _fitted(
    recipe: Path, file: str | None, parameters: list[str] | None, files_under: Path | None
) -> tuple[ParsedRecipe, Schema | None, Refusal | None]:
    """The recipe, the columns of the extract where one is given, and what is wrong: the rest is explained."""
    from mangler.cli.parameters import named_values
    from mangler.engine.plan.plan import go_on
    from mangler.engine.run.linked_recipe import LinkedRecipe
    from mangler.language.mistake import ExitCode, Refusal

    values = named_values(parameters)
    try:
        parsed = LinkedRecipe.load(recipe, values, files_under).parsed
    except Refusal as refusal:
        if refusal.code is not ExitCode.WRONG_FOR_ANY_EXTRACT:
            raise
        return _in_part(recipe, refusal), None, refusal
    if file is None:
        return parsed, None, None
    schema, why = _opened(parsed, file)
    try:
        go_on(parsed, parsed.statements, schema, why)
    except Refusal as refusal:
        misread = any(mistake.word == "read-otherwise" for mistake in refusal.mistakes)
        return parsed, None if misread else schema, refusal
    return parsed, schema, None


def _show_json(told: Explanation, fate: Fate | None, refusal: Refusal | None) -> None:
    answer = told.to_json()
    if fate is not None:
        answer["added"] = fate.to_json()
    if refusal is not None:
        from mangler.engine.run.summary import mistakes_to_json

        answer["mistakes"] = mistakes_to_json(refusal)
    show_json(answer)


def _show(told: Explanation, fate: Fate | None, chosen: list[str] | None) -> None:
    from mangler.cli.paging import paged
    from mangler.cli.screen import answer_console
    from mangler.cli.views.explanation_view import show_columns, show_explanation, show_fate

    with paged(answer_console()):
        if fate is not None:
            show_fate(answer_console(), fate)
        elif chosen is not None:
            show_columns(answer_console(), told, chosen)
        else:
            show_explanation(answer_console(), told)


def _in_part(recipe: Path, refusal: Refusal) -> ParsedRecipe:
    """The statements that are right; where there are none, the mistakes are all there is to say."""
    from mangler.language.recipe import load_source, parse_in_part
    from mangler.steps import VERBS

    parsed, _ = parse_in_part(load_source(recipe), VERBS)
    if not parsed.statements:
        raise refusal
    return parsed


def _opened(parsed: ParsedRecipe, file: str) -> tuple[Schema, Explain]:
    """The columns of an extract; no row is read but those that tell them."""
    from mangler.formats.contract import ReadRequest
    from mangler.formats.registry import open_source
    from mangler.steps.read import settings

    source = open_source(file, ReadRequest(settings(parsed.only("read")), rows=1))
    try:
        schema, why = source.schema, source.explain_missing()
        return schema, lambda: why
    finally:
        source.close()


def _chosen(told: Explanation, columns: str) -> list[str]:
    """The columns of the output that are asked for."""
    from dataclasses import replace

    from mangler.language.mistake import Refusal, extract_does_not_fit
    from mangler.recipes.options import column_list
    from mangler.steps.shared.columnwise import matching_names
    from mangler.table.schema import Column, Schema
    from mangler.table.select import select

    names = [one.name for one in told.outputs]
    if not names:
        raise extract_does_not_fit(
            "unknown-column", "the output has no columns that are known", "Leave out --columns."
        )
    schema = Schema(tuple(Column(name) for name in names))
    try:
        return [names[at] for at in select(column_list(columns), schema, "explain", matching_names).indices]
    except Refusal as refusal:  # it is about the output here
        told_so = [
            replace(one, message=one.message.replace("the extract", "the output")) for one in refusal.mistakes
        ]
        raise Refusal(told_so, refusal.code) from None


def _added(text: str) -> Column:
    """The column that `--added` names, as the head of a table in a test does: a name, and perhaps a type."""
    from mangler.language.mistake import wrong_recipe
    from mangler.table.schema import Column, ValueType

    name, _, kind = text.strip().rpartition(" ")
    known = {str(one): one for one in ValueType}
    if name and kind in known:
        return Column(name.strip(), known[kind])
    if not text.strip():
        raise wrong_recipe(
            "empty-name", "--added names no column", "Write --added depth, or --added 'depth float'."
        )
    return Column(text.strip())
