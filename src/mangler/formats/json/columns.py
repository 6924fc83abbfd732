"""Objects as columns: nested objects become columns with dotted names, each of one type."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from decimal import Decimal
from itertools import chain
from operator import itemgetter
from typing import Any, NamedTuple, TypeAlias

import pyarrow as pa

from mangler.formats.json.exact import dumped
from mangler.formats.json.kinds import NONE, Facts, Kind, Target, facts_of
from mangler.kernels.arrow import ColumnArray

Path: TypeAlias = tuple[str, ...]
"""The keys that lead to a value."""


class Cells(NamedTuple):
    """The values of all rows at one path, None where a row has none, and their types."""

    values: list[Any]
    types: frozenset[type]


DEEPEST = 16
"""Objects nested more deeply than this are kept as JSON in a text."""


class TooSparseError(Exception):
    """Objects have so few keys in common that a table of them would be nearly all nulls."""

    def __init__(self, keys: int) -> None:
        self.keys = keys


def values_by_path(
    rows: list[Any], kept_whole: Iterable[Path] = (), most_cells: int | None = None
) -> dict[Path, Cells]:
    """For each path the values of all rows, None where a row has none. Objects at `kept_whole` are not taken apart.

    An object that was taken apart has its path too, with the values that are no objects. More cells than
    `most_cells` in one level of objects are a TooSparseError.
    """
    whole = set(kept_whole)
    found: dict[Path, Cells] = {}
    _take_apart(rows, (), whole, found, most_cells)
    return found


def _take_apart(
    rows: list[Any], above: Path, whole: set[Path], found: dict[Path, Cells], most_cells: int | None
) -> None:
    columns = _columns_of(rows)
    if columns is None:
        names = list(dict.fromkeys(chain.from_iterable(rows)))
        if most_cells is not None and len(names) * len(rows) > most_cells:
            raise TooSparseError(len(names))
        columns = {name: [row.get(name) for row in rows] for name in names}
    for name, values in columns.items():
        path = (*above, name)
        types = frozenset(map(type, values))
        found[path] = Cells(values, types)
        if path in whole or len(path) >= DEEPEST or dict not in types:
            continue
        inside = [value if type(value) is dict else _NOTHING for value in values]
        _take_apart(inside, path, whole, found, most_cells)


def _columns_of(rows: list[Any]) -> dict[str, list[Any]] | None:
    """The values by key, where all objects have the same keys."""
    if not rows:
        return {}
    names = list(rows[0])
    if sum(map(len, rows)) != len(names) * len(rows):
        return None
    try:
        return {name: list(map(itemgetter(name), rows)) for name in names}
    except KeyError:
        return None


_NOTHING: dict[str, Any] = {}


def facts_by_path(cells: Mapping[Path, Cells]) -> dict[Path, Facts]:
    out = {path: facts_of(*column) for path, column in cells.items()}
    for path, facts in out.items():
        if len(path) >= DEEPEST and Kind.OBJECT in facts.kinds:
            facts.kinds = (facts.kinds - {Kind.OBJECT}) | {Kind.TREE}
    return out


def built(cells: Cells, target: Target) -> ColumnArray:
    """A column of these values, which all fit in the type."""
    values, types = cells
    kind = target.type
    if target.is_tree:
        return pa.array([None if one is None else dumped(one) for one in values], kind)
    if pa.types.is_string(kind) and types <= {str, NONE}:
        return pa.array(values, kind)
    if pa.types.is_string(kind):
        return pa.array(
            [one if one is None or type(one) is str else scalar_text(one) for one in values], kind
        )
    if pa.types.is_list(kind):
        return pa.array([None if one is None else _elements(one, kind.value_type) for one in values], kind)
    if pa.types.is_floating(kind) and int in types:
        return pa.array([None if one is None else float(one) for one in values], kind)
    if pa.types.is_decimal(kind):
        return pa.array([None if one is None else Decimal(one) for one in values], kind)
    return pa.array(values, kind)


def _elements(value: list[Any], kind: Any) -> list[Any]:
    if not pa.types.is_string(kind):
        return value
    return [one if one is None or type(one) is str else scalar_text(one) for one in value]


def scalar_text(value: Any) -> str:
    """A number, true or false as it is in JSON."""
    if value is True or value is False:
        return "true" if value else "false"
    return str(value) if type(value) is Decimal else dumped(value)


def adapted(array: ColumnArray, source: Target | None, target: Target) -> ColumnArray | None:
    """A column that was built for one type as one of another; None where it must be built again from its values."""
    if source is None:
        return None
    if array.null_count == len(array):
        return pa.nulls(len(array), target.type)
    if source.is_tree != target.is_tree:
        return None
    if array.type == target.type:
        return array
    numeric = pa.types.is_integer(array.type) or pa.types.is_decimal(array.type)
    if numeric and (pa.types.is_decimal(target.type) or pa.types.is_floating(target.type)):
        if pa.types.is_decimal(target.type) and pa.types.is_integer(array.type):
            array = array.cast(pa.decimal128(20, 0))
        return array.cast(target.type)
    if pa.types.is_integer(array.type) and pa.types.is_integer(target.type):
        return array.cast(target.type)
    return None
