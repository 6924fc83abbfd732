"""`rename`: other names for columns."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Callable, Mapping
from typing import Any

from mangler.language.columns import ColumnSelector, NamedColumn
from mangler.language.declaration import Declaration, Example
from mangler.language.literals import Name
from mangler.language.mistake import ExitCode, Mistake, Refusal, extract_does_not_fit, wrong_recipe
from mangler.language.statement import Statement
from mangler.steps.shared.columnwise import ColumnChoice, matching_names
from mangler.table.schema import Schema
from mangler.table.select import quote_name, select

DECLARATION = Declaration(
    name="rename",
    usage="rename {COLUMNS (to NAME|snake|trim|lower|upper)}, …",
    meaning="Gives columns other names: one a new name; whichever of several with ? the extract has; or all of a"
    " list their own name in another style. A name that another column has is refused.",
    clauses={
        "to": "The new name. Of several old names, each with ?, the extract has one; two are an error.",
        "snake": "Small letters and digits, with _ between words and for anything else: Fired at? becomes fired_at.",
        "trim": "No white space at the ends, and one space for each run inside.",
        "lower": "All letters small.",
        "upper": "All letters as capitals.",
    },
    examples=(
        Example(
            "rename cone to cone_number, result to verdict",
            "kiln | cone | result\n007 | 06 | good",
            "kiln | cone_number | verdict\n007 | 06 | good",
        ),
        Example(
            "rename maker?, artist? to potter",
            "kiln | artist\n007 | Pim Verhoe",
            "kiln | potter\n007 | Pim Verhoe",
        ),
        Example(
            "rename * snake",
            "[Kiln No.] | FiredAt | [Peak °C]\n007 | today | 1222",
            "kiln_no | fired_at | peak_c\n007 | today | 1222",
        ),
    ),
)


def snake_case(name: str) -> str:
    """`FiredAt`, `Fired at?` and `fired-at` are all `fired_at`; accents stay, other marks become `_`."""
    name = unicodedata.normalize("NFC", name)
    name = re.sub(r"(?<=[^\W\d_])(?=[A-Z][a-z])|(?<=[a-z\d])(?=[A-Z])", "_", name)
    snake = re.sub(r"[\W_]+", "_", name).strip("_").lower()
    return f"_{snake}" if snake[:1].isdigit() else snake


def trimmed(name: str) -> str:
    """A name without white space at its ends, with one space for each run inside."""
    return " ".join(name.split())


STYLES: Mapping[str, Callable[[str], str]] = {
    "snake": snake_case,
    "trim": trimmed,
    "lower": str.lower,
    "upper": str.upper,
}


def check(statement: Statement) -> list[Mistake]:
    mistakes: list[Mistake] = []
    new: set[str] = set()
    for pair in _pairs(statement):
        selector: ColumnSelector = pair["columns"]
        if "to" not in pair:
            continue
        name: Name = pair["to"]
        items = selector.included
        named = all(isinstance(item, NamedColumn) for item in items) and not selector.excluded
        if not named:
            mistakes.append(
                Mistake(
                    "wrong-number-of-names",
                    "one name is for one column",
                    "Name the column; several names need a style.",
                    selector.span,
                )
            )
        elif len(items) > 1 and not all(isinstance(item, NamedColumn) and item.optional for item in items):
            mistakes.append(
                Mistake(
                    "name-taken",
                    f"several columns cannot all become {quote_name(name.value)}",
                    "If the extract has one of them, put ? behind each: rename maker?, artist? to potter.",
                    selector.span,
                )
            )
        if name.value in new:
            mistakes.append(
                Mistake(
                    "name-taken",
                    f"two columns would be {quote_name(name.value)}",
                    "Give each a name of its own.",
                    name.span,
                )
            )
        new.add(name.value)
    return mistakes


def bind(statement: Statement, schema: Schema) -> ColumnChoice:
    renamed: dict[int, tuple[str, Any]] = {}
    missing: list[Mistake] = []
    for pair in _pairs(statement):
        selector: ColumnSelector = pair["columns"]
        try:
            indices = select(selector, schema, statement.verb, matching_names, None, ("to", *STYLES)).indices
        except Refusal as refusal:
            missing += refusal.mistakes
            continue
        if "to" in pair and len(indices) > 1:
            there = " and ".join(quote_name(schema.names[index]) for index in indices)
            raise extract_does_not_fit(
                "ambiguous-name",
                f"the extract has {there}, and only one can become {quote_name(pair['to'].value)}",
                "Drop one of them first, or rename them apart.",
                selector.span,
            )
        for index in indices:
            if "to" in pair:
                renamed[index] = pair["to"].value, pair["to"].span
            else:
                style = next(style for style in STYLES if style in pair)
                renamed[index] = STYLES[style](schema.names[index]), selector.span
    if missing:
        gone = all(not mistake.missing for mistake in missing)
        raise Refusal(missing, ExitCode.WRONG_FOR_ANY_EXTRACT if gone else ExitCode.ANSWER_IS_NO)
    _refuse_clashes(schema, renamed)
    columns = tuple(
        column.renamed(renamed[index][0]) if index in renamed else column
        for index, column in enumerate(schema.columns)
    )
    lost = {schema.names[index] for index in renamed} - {column.name for column in columns}
    gone_names = (*schema.gone, *((name, statement.line) for name in sorted(lost)))
    return ColumnChoice(Schema(columns, gone_names), tuple(range(len(columns))))


def _refuse_clashes(schema: Schema, renamed: dict[int, tuple[str, Any]]) -> None:
    """Two columns of one name, or a column without any, could not be distinguished any more."""
    seen: dict[str, int] = {name: index for index, name in enumerate(schema.names) if index not in renamed}
    for index, (name, span) in renamed.items():
        if not name:
            raise wrong_recipe(
                "empty-name",
                f"{quote_name(schema.names[index])} would have no name left",
                "Give it one with to.",
                span,
            )
        if name in seen:
            raise extract_does_not_fit(
                "name-taken",
                f"{quote_name(schema.names[index])} cannot become {quote_name(name)}: "
                f"{quote_name(schema.names[seen[name]])} has that name",
                "Choose another name, or rename or drop the other column first.",
                span,
            )
        seen[name] = index


def _pairs(statement: Statement) -> list[dict[str, Any]]:
    return list(statement.values["columns"])
