"""Finds the columns that a selector means in a schema; what is not there is a mistake in the recipe."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Sequence

from mangler.language.columns import (
    ColumnFamily,
    ColumnItem,
    ColumnSelector,
    EveryColumn,
    MatchingColumns,
    NamedColumn,
)
from mangler.language.cursor import is_bare_name
from mangler.language.literals import Name
from mangler.language.mistake import ExitCode, Mistake, Refusal, enumerate_names, nearest
from mangler.language.patterns import Pattern
from mangler.language.spelling import spell_text
from mangler.late_dataclass import dataclass
from mangler.table.schema import FAMILIES, Column, Schema, ValueType
from mangler.table.stored_types import describe_type

MOST_NAMES = 6
MOST_COMPARED = 5000
"""Names that a missing one is compared with: of more the nearest would be looked for too long."""


@dataclass(frozen=True)
class Selection:
    """Positions in the schema, in its order; `passed_over` are columns that the verb cannot work on."""

    indices: tuple[int, ...]
    passed_over: tuple[str, ...] = ()


PatternTest = Callable[[Pattern, list[str]], list[bool]]


def select(
    selector: ColumnSelector,
    schema: Schema,
    verb: str,
    matches: PatternTest,
    types: Collection[ValueType] | None = None,
    clause_words: Iterable[str] = (),
    as_said: bool = False,
) -> Selection:
    """The columns a selector means, in the extract's order; `as_said` in the order in which they are meant first.

    `types` are those the verb can work on: a column of another type is an error when it is named, and passed
    over when `*`, a pattern or a family brings it. All columns that are not there are refused together.
    """
    found = _Found(schema, matches, clause_words)
    picked: dict[int, None] = {}
    passed: set[int] = set()

    def fits(index: int) -> bool:
        return types is None or schema.columns[index].type in types

    for item in selector.included:
        indices = found.indices(item)
        if isinstance(item, NamedColumn) and not all(map(fits, indices)):
            found.add_mistake(_wrong_type(item, schema.columns[indices[0]], verb, types or ()), True)
        else:
            picked.update(dict.fromkeys(filter(fits, indices)))
            passed.update(index for index in indices if not fits(index))
    excluded = {index for item in selector.excluded for index in found.indices(item)}
    if excluded:
        picked = {index: None for index in picked if index not in excluded}
        passed -= excluded
    found.refuse()
    chosen = tuple(picked) if as_said else tuple(sorted(picked))
    return Selection(chosen, tuple(schema.names[i] for i in sorted(passed)))


class _Found:
    """Looks columns up, and gathers the mistakes of items that mean none."""

    def __init__(self, schema: Schema, matches: PatternTest, clause_words: Iterable[str]) -> None:
        self._schema, self._matches, self._clause_words = schema, matches, clause_words
        self._by_name = {name: i for i, name in enumerate(schema.names)}
        self._mistakes: list[Mistake] = []
        self._in_recipe: list[bool] = []

    def indices(self, item: ColumnItem) -> Sequence[int]:
        """The columns that an item means; none where there is no such column, which is a mistake."""
        found = _find(item, self._schema, self._by_name, self._matches)
        if found is None:
            assert isinstance(item, NamedColumn)
            self.add_mistake(*missing_column(item.name, self._schema, self._clause_words))
        return found or ()

    def add_mistake(self, mistake: Mistake, in_recipe: bool) -> None:
        """`in_recipe`: whether it is a mistake whatever the extract holds."""
        self._mistakes.append(mistake)
        self._in_recipe.append(in_recipe)

    def refuse(self) -> None:
        """Raises all mistakes together."""
        if self._mistakes:
            always = all(self._in_recipe)
            raise Refusal(self._mistakes, ExitCode.WRONG_FOR_ANY_EXTRACT if always else ExitCode.ANSWER_IS_NO)


def _wrong_type(item: NamedColumn, column: Column, verb: str, types: Collection[ValueType]) -> Mistake:
    name = quote_name(column.name)
    known = sorted(kind for kind in types if kind is not ValueType.OTHER)
    way = f"It works on {', '.join(known[:-1])}{' and ' * (len(known) > 1)}{known[-1]}: convert {name} first."
    if column.type is ValueType.LIST:
        way = f'Make a text of it first: make {name} = joined({name}, "; ").'
    elif column.type is ValueType.OTHER:
        way = f"Make a text of it first: convert {name} to text."
    return Mistake(
        "wrong-type",
        f'{verb} cannot work on "{column.name}", which is {describe_type(column)}',
        way,
        item.name.span,
    )


def missing_column(name: Name, schema: Schema, clause_words: Iterable[str] = ()) -> tuple[Mistake, bool]:
    """The mistake of naming a column that is not there, and whether it is one for every extract."""
    gone = dict(schema.gone)
    if name.value in gone:
        return (
            Mistake(
                "column-gone",
                f'the column "{name.value}" is gone since line {gone[name.value]}',
                f"Move this step above line {gone[name.value]}, or keep the column there.",
                name.span,
            ),
            True,
        )
    names = schema.names
    advice = ""
    if name.after_comma and name.value in set(clause_words):
        advice = f"After a comma a word is the next item: if {name.value} is the clause, take the comma out. "
    close = nearest(name.value, names) if len(names) <= MOST_COMPARED else []
    if close:
        advice += f"Nearest: {quote_name(close[0])}. "
    shown = [quote_name(column) for column in names[: MOST_NAMES + 1]]
    shown += [""] * (len(names) - len(shown))  # only counted
    advice += f"Columns: {enumerate_names(shown, MOST_NAMES)}." if names else "It has no columns."
    return Mistake(
        "unknown-column", f'the extract has no column "{name.value}"', advice, name.span, (name.value,)
    ), False


def named_columns(names: Iterable[Name], schema: Schema) -> list[int]:
    """The places of columns, in the order in which they are named. All that are missing are refused together."""
    mistakes: list[Mistake] = []
    codes: list[ExitCode] = []
    indexes: list[int] = []
    for name in names:
        if name.value in schema.names:
            indexes.append(schema.names.index(name.value))
            continue
        mistake, always = missing_column(name, schema)
        mistakes.append(mistake)
        codes.append(ExitCode.WRONG_FOR_ANY_EXTRACT if always else ExitCode.ANSWER_IS_NO)
    if mistakes:
        raise Refusal(mistakes, min(codes))
    return indexes


def quote_name(name: str) -> str:
    """A column's name as a recipe spells it."""
    if is_bare_name(name):
        return name
    if name.isprintable() and name and not name.startswith('"'):
        return f"[{name.replace(']', ']]')}]"
    return f"[{spell_text(name)}]"


def _find(
    item: ColumnItem, schema: Schema, by_name: dict[str, int], matches: PatternTest
) -> list[int] | None:
    """Positions of the columns of one item; None when a named column is not there."""
    if isinstance(item, EveryColumn):
        return list(range(len(schema.columns)))
    if isinstance(item, ColumnFamily):
        family = FAMILIES[item.family]
        return [i for i, column in enumerate(schema.columns) if column.type in family]
    if isinstance(item, MatchingColumns):
        hits = matches(item.pattern, schema.names)
        return [i for i, hit in enumerate(hits) if hit]
    index = by_name.get(item.name.value)
    if index is None:
        return [] if item.optional else None
    return [index]
