"""`reorder columns`: the columns in another order."""

from __future__ import annotations

from mangler.language.columns import ColumnSelector, EveryColumn
from mangler.language.declaration import Declaration, Example
from mangler.language.mistake import Mistake, wrong_recipe
from mangler.language.statement import Statement
from mangler.language.usage import parse_usage
from mangler.steps.shared.columnwise import ColumnChoice, choose, matching_names
from mangler.table.schema import Schema
from mangler.table.select import quote_name, select

DECLARATION = Declaration(
    name="reorder columns",
    usage="reorder columns COLUMNS",
    meaning="Puts the columns in this order; * is all that are not named, in the order they have. Without * every"
    " column is named: none is lost.",
    examples=(
        Example(
            "reorder columns result, *, notes",
            "kiln | notes | cone | result\n007 | dry | 06 | good",
            "result | kiln | cone | notes\ngood | 007 | 06 | dry",
        ),
    ),
)


def check(statement: Statement) -> list[Mistake]:
    selector = statement.columns()
    mistakes = []
    if selector.excluded:
        mistakes.append(
            Mistake(
                "clause-not-allowed",
                "every column keeps its place somewhere, so nothing is excepted here",
                "Name the columns in their order, with * for the rest; drop columns takes columns away.",
                selector.span,
            )
        )
    if sum(isinstance(item, EveryColumn) for item in selector.included) > 1:
        mistakes.append(
            Mistake("said-twice", "* is allowed once: it is all the rest", "Leave one * out.", selector.span)
        )
    return mistakes


def bind(statement: Statement, schema: Schema) -> ColumnChoice:
    choose(statement, schema, DECLARATION.usage, types=None)  # all that is missing is reported together
    selector = statement.columns()
    words = parse_usage(statement.verb, DECLARATION.usage).clause_words()
    picked: list[list[int]] = []
    named: set[int] = set()
    for item in selector.included:
        if isinstance(item, EveryColumn):
            picked.append([])
            continue
        one = ColumnSelector((item,), (), selector.span)
        found = select(one, schema, statement.verb, matching_names, None, words).indices
        picked.append([index for index in found if index not in named])
        named.update(found)
    rest = [index for index in range(len(schema.columns)) if index not in named]
    stars = [isinstance(item, EveryColumn) for item in selector.included]
    if rest and not any(stars):
        raise wrong_recipe(
            "no-columns",
            f"{', '.join(quote_name(schema.names[index]) for index in rest)}: not named, so without a place",
            "Add * where the rest should be; drop columns takes columns away.",
            selector.span,
        )
    order = [i for star, found in zip(stars, picked, strict=True) for i in (rest if star else found)]
    return ColumnChoice(schema.pick(order, statement.line), tuple(order))
