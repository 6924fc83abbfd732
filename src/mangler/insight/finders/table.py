"""What is to be said of a table as a whole: its rows, its names, and how its columns hang together."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import field

import numpy as np
import numpy.typing as npt

from mangler.insight.columns.column import Column
from mangler.insight.columns.finding import TableFinding, TableKind
from mangler.insight.columns.rows import Codes, Rows
from mangler.insight.finders.numbers import NumberColumn
from mangler.language.mistake import enumerate_names
from mangler.late_dataclass import dataclass
from mangler.table.select import quote_name

TOTAL = re.compile(
    r"(?i)^\W*(?:grand |sub)?(?:totals?|sum|sums|summe|gesamt|insgesamt|totaal|somme|suma|totale)\b\W*$"
)
LEAST_ROWS = 5
SAME = 1e-6
MOST_NAMED = 4
LEVEL_NAME = re.compile(
    r"(?i)(?:^|[^a-z])(?:n|no|num|number|count|counts|cnt|qty|quantity|amount|level|grade|stage|score|rating|rank|size"
    r"|children|siblings|times|visits|pieces|rooms|points|goals|errors|order|index|year|day|month)(?:$|[^a-z])"
)
"""Names of columns whose 0 and 1 are numbers or levels."""


@dataclass(frozen=True)
class TableFacts:
    """A table whose columns were looked at one by one."""

    columns: Sequence[Column]
    numbers: Sequence[NumberColumn | None]
    rows: Rows
    row_count: int
    names: tuple[str, ...]
    """Of all columns."""
    given_names: tuple[str, ...] = field(default=())
    """Those that have no name in the file, or that of another column."""


def find_in_table(table: TableFacts) -> list[TableFinding]:
    """The most harmful first."""
    index = _index(table)
    return [
        *_spaced_names(table.names),
        *_given_names(table.given_names),
        *_totals(table),
        *_duplicates(table),
        *_flags(table.columns),
        *index,
        *_keys(table, {name for one in index for name in one.columns}),
        *_determined(table),
        *_constant(table.columns, table.row_count),
    ]


def _named(names: Sequence[str]) -> str:
    return enumerate_names([quote_name(name) for name in names], MOST_NAMED)


def _spaced_names(names: Sequence[str]) -> list[TableFinding]:
    spaced = [name for name in names if name != " ".join(name.split())]
    tidy = [" ".join(name.split()) for name in names]
    if not spaced or len(set(tidy)) < len(tidy) or "" in tidy:
        return []
    message = f"white space around or inside the names of columns: {_named(spaced)}"
    return [TableFinding(TableKind.SPACED_NAMES, tuple(spaced), message, "", "rename * trim")]


def _given_names(names: Sequence[str]) -> list[TableFinding]:
    if not names:
        return []
    message = f"columns without a name of their own in the file: {_named(names)}"
    return [TableFinding(TableKind.GIVEN_NAMES, tuple(names), message)]


def _totals(table: TableFacts) -> list[TableFinding]:
    """A last row that sums up those above it."""
    last = table.rows.last
    if table.row_count < LEAST_ROWS or not last:
        return []
    words = [text for text in last if text and TOTAL.match(text.strip())]
    sums = [
        column.name
        for column, numbers, text in zip(table.columns, table.numbers, last, strict=True)
        if numbers is not None and text and column.counted.values.exact and _is_sum(numbers, text)
    ]
    if not words and len(sums) < 2:
        return []
    reasons = [f'it says "{word.strip()}"' for word in words[:1]]
    reasons += [f"it holds the sum of the rows above in {_named(sums)}"] * bool(sums)
    return [
        TableFinding(
            TableKind.TOTALS,
            tuple(sums),
            f"the last row looks like a total: {' and '.join(reasons)}",
            "Is the last row a total, and no row of its own? Then write skip last 1 in read.",
        )
    ]


def _is_sum(numbers: NumberColumn, text: str) -> bool:
    digits = re.sub(r"[^\d,.\-+eE]", "", text).replace(numbers.form.grouping or "\0", "")
    try:
        value = float(digits.replace(numbers.form.point, "."))
    except ValueError:
        return False
    every = float((numbers.numbers.values * numbers.numbers.counts).sum())
    return value != 0 and abs(every - 2 * value) <= SAME * abs(value)


def _duplicates(table: TableFacts) -> list[TableFinding]:
    repeated = table.rows.repeated()
    found = []
    if repeated and len(table.columns) > 1:
        rows = "1 row is" if repeated == 1 else f"{repeated:,} rows are"
        of = "" if table.rows.count >= table.row_count else f" among the first {table.rows.count:,}"
        found.append(
            TableFinding(
                TableKind.DUPLICATES,
                (),
                f"{rows} equal to an earlier one in every column{of}",
                "May repeated rows go?",
                "dedupe",
                repeated,
            )
        )
        return found
    codes = table.rows.codes
    if codes is None or len(table.columns) < 3:
        return found
    for place in _unlike(codes)[:MOST_NAMED]:
        others = np.delete(codes, place, axis=0)
        same = codes.shape[1] - len(np.unique(_combined(others)))
        if 0 < same <= 0.2 * codes.shape[1]:
            name = table.columns[place].name
            others_named = ", ".join(one.spelled for i, one in enumerate(table.columns) if i != place)
            rows = "1 row is" if same == 1 else f"{same:,} rows are"
            return [
                TableFinding(
                    TableKind.DUPLICATES,
                    (name,),
                    f"{rows} equal to an earlier one in every column but {quote_name(name)}",
                    "Are these rows one thing, entered twice?",
                    f"dedupe by {others_named}",
                    same,
                )
            ]
    return found


def _unlike(codes: Codes) -> list[int]:
    """The columns in which every row has a value of its own."""
    return [i for i, own in enumerate(codes) if (own >= 0).all() and len(np.unique(own)) == len(own)]


def _combined(codes: Codes) -> npt.NDArray[np.int64]:
    """A number for each row: equal where the rows are equal in all of these columns."""
    together = np.zeros(codes.shape[1], np.int64)
    for own in codes:
        together = together * (int(own.max()) + 2) + own + 1
        _, together = np.unique(together, return_inverse=True)
    return together


def _flags(columns: Sequence[Column]) -> list[TableFinding]:
    """One question for all columns of 0 and 1 that are not named as numbers or levels."""
    named = [
        column
        for column in columns
        if set(column.said.values) == {"0", "1"}
        and column.said.cells > 2
        and not LEVEL_NAME.search(column.name)
    ]
    if not named:
        return []
    spelled = ", ".join(column.spelled for column in named)
    return [
        TableFinding(
            TableKind.FLAGS,
            tuple(column.name for column in named),
            f"only 0 and 1 in {_named([column.name for column in named])}",
            "Are 0 and 1 true and false here, or numbers?",
            f'convert {spelled} to boolean true "1" false "0"',
        )
    ]


def _index(table: TableFacts) -> list[TableFinding]:
    for column, numbers in zip(table.columns, table.numbers, strict=True):
        if numbers is None or numbers.type != "integer" or numbers.units or table.row_count < LEAST_ROWS:
            continue
        own, values = numbers.numbers, numbers.numbers.values
        runs = own.least in (0.0, 1.0) and own.most - own.least == table.row_count - 1
        if runs and len(values) == table.row_count and not column.counted.facts.nulls:
            return [
                TableFinding(
                    TableKind.INDEX,
                    (column.name,),
                    f"{column.spelled} only counts the rows, from {int(own.least)} on",
                    "Is this number of the row needed?",
                    f"drop columns {column.spelled}",
                )
            ]
    return []


def _keys(table: TableFacts, index: set[str]) -> list[TableFinding]:
    """Columns whose values are all there and all unlike; numbers with places are measurements."""
    if table.row_count < LEAST_ROWS:
        return []
    named = [
        column.name
        for column, numbers in zip(table.columns, table.numbers, strict=True)
        if column.counted.values.exact
        and column.counted.values.distinct == table.row_count == column.counted.facts.filled
        and column.name not in index
        and not column.is_free_text
        and (numbers is None or numbers.type == "integer")
    ]
    if not named:
        return []
    could = "could be the key" if len(named) == 1 else "could be the key, each of them"
    return [
        TableFinding(
            TableKind.KEY,
            tuple(named),
            f"{_named(named)} {could}: every row has a value of its own",
            "Must it stay so in every extract?",
            f"require one row per {quote_name(named[0])}",
        )
    ]


MOST_PAIRED = 24
MOST_LEVELS = 0.5
MOST_ALIKE = 0.8
"""Where more rows than this share have one value, it follows from many columns by chance."""
MANY_EACH = 4
LEAST_LEVELS = 3


def _determined(table: TableFacts) -> list[TableFinding]:
    """Columns that follow from another one: each of its values always comes with the same one."""
    codes = table.rows.codes
    if codes is None or codes.shape[1] < 2 * LEAST_ROWS:
        return []
    rows = codes.shape[1]
    sizes = [len(np.unique(own)) for own in codes]
    some = [
        i
        for i, size in enumerate(sizes)
        if LEAST_LEVELS <= size <= MOST_LEVELS * rows and not _is_measured(table.numbers[i])
    ][:MOST_PAIRED]
    mixed = [np.bincount(own + 1).max() <= MOST_ALIKE * rows for own in codes]
    found: dict[str, list[str]] = {}
    for of in some:
        for other, size in enumerate(sizes):
            if (
                other == of
                or not mixed[other]
                or not 2 <= size <= sizes[of]
                or (size == sizes[of] and other < of)
            ):
                continue
            pairs = codes[of].astype(np.int64) * (int(codes[other].max()) + 2) + codes[other] + 1
            if len(np.unique(pairs)) == sizes[of] and rows >= MANY_EACH * sizes[of]:
                found.setdefault(table.columns[of].name, []).append(table.columns[other].name)
    return [
        TableFinding(
            TableKind.DETERMINED,
            (of, *others),
            f"{_named(others)} {'follows' if len(others) == 1 else 'follow'} from {quote_name(of)}: each value of it"
            " always comes with the same one",
        )
        for of, others in list(found.items())[:MOST_NAMED]
    ]


def _is_measured(numbers: NumberColumn | None) -> bool:
    """Whether a column holds numbers with places, from which nothing follows."""
    return numbers is not None and numbers.type != "integer"


def _constant(columns: Sequence[Column], rows: int) -> list[TableFinding]:
    named = [
        column.name
        for column in columns
        if rows > 1 and column.counted.values.distinct == 1 and not column.counted.facts.nulls
    ]
    empty = [column.name for column in columns if rows > 1 and not column.counted.facts.filled]
    found = []
    if named:
        holds = "holds" if len(named) == 1 else "hold"
        found.append(
            TableFinding(
                TableKind.CONSTANT, tuple(named), f"{_named(named)} {holds} the same value in every row"
            )
        )
    if empty:
        holds = "holds" if len(empty) == 1 else "hold"
        found.append(
            TableFinding(TableKind.CONSTANT, tuple(empty), f"{_named(empty)} {holds} nothing in any row")
        )
    return found
