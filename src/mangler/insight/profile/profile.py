"""`profile`: what a file's columns hold, what may be wrong with them, and the steps that would fix it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from dataclasses import field, replace

from mangler.formats.contract import UnfitRow
from mangler.insight.columns.column import Column
from mangler.insight.columns.counting import FileCounts, count_file
from mangler.insight.columns.facts import MARKS, Facts
from mangler.insight.columns.finding import Finding, Found, Kind, Proposal, Stage, TableFinding
from mangler.insight.finders.booleans import find_booleans
from mangler.insight.finders.dates import DateColumn, find_dates
from mangler.insight.finders.letter_case import find_letter_case
from mangler.insight.finders.lists import ListColumn, find_lists
from mangler.insight.finders.near_variants import find_near_variants
from mangler.insight.finders.null_words import find_null_words
from mangler.insight.finders.numbers import NumberColumn, find_numbers
from mangler.insight.finders.outliers import find_outliers
from mangler.insight.finders.table import TableFacts, find_in_table
from mangler.insight.finders.white_space import find_white_space
from mangler.insight.profile.proving import prove
from mangler.language.columns import ColumnSelector
from mangler.late_dataclass import dataclass
from mangler.table.schema import ValueType
from mangler.table.settings import ReadSettings

MOST_FREQUENT = 8
PARTITION_SIZE = 8 << 20
"""Larger than a run's: nothing is written, and each block costs the same few calls for every column."""


@dataclass
class ColumnProfile:
    """One column. `looks` is the type that its values seem to be of; `stored` the one that the file gives them."""

    name: str
    facts: Facts
    distinct: int
    distinct_is_exact: bool
    frequent: list[tuple[str, int]]
    """Values as they are, with their cells, those of most cells first."""
    looks: str
    stored: str = "text"
    numbers: NumberColumn | None = None
    dates: DateColumn | None = None
    listed: ListColumn | None = None
    findings: list[Finding] = field(default_factory=list)
    """The most harmful first."""
    proposals: list[Proposal] = field(default_factory=list)
    """The sure ones first, in the order in which they are done."""

    @property
    def parts(self) -> dict[str, tuple[Counter[int], int, int, int]]:
        """For each mark how many cells have so many parts, and the least, usual and most parts of a cell.

        The usual number is that of most cells which have the mark.
        """
        found = {}
        for mark in MARKS:
            counts = +self.facts.parts.get(mark, Counter())
            if max(counts, default=1) > 1:
                several = [number for number in counts if number > 1]
                usual = max(several, key=lambda number: (counts[number], -number))
                found[mark] = (counts, min(counts), usual, max(counts))
        return found

    @property
    def faults(self) -> list[Finding]:
        """What is wrong, not only so as text."""
        return [finding for finding in self.findings if finding.is_fault]

    @property
    def harm(self) -> float:
        """How much harm is done if nothing is: the worst fault first, then by the share of cells that have faults."""
        if not self.faults:
            return 0.0
        worst = max(finding.kind.harm for finding in self.faults)
        cells = sum(finding.cells for finding in self.faults if finding.kind.harm == worst)
        return worst + min(cells / max(self.facts.cells, 1), 0.99)


@dataclass
class Profile:
    extract: str
    detected: dict[str, str]
    rows: int
    columns: list[ColumnProfile]
    """In the file's order."""
    all_names: tuple[str, ...]
    """Of every column of the file, profiled or not."""
    unfit: int = 0
    unfit_examples: tuple[UnfitRow, ...] = ()
    read_as: ReadSettings = field(default_factory=ReadSettings)
    """How it was read, said or detected."""
    layout_found: bool = False
    """Whether that is not what a run would detect by itself."""
    hint: str = ""
    """What may be wrong with the way the file was read."""
    table: list[TableFinding] = field(default_factory=list)
    """What is found of the table as a whole, the most harmful first."""

    @property
    def worst_first(self) -> list[ColumnProfile]:
        return sorted(self.columns, key=lambda column: -column.harm)


def profile_file(
    path: str,
    settings: ReadSettings,
    columns: ColumnSelector | None = None,
    progress: Callable[[int, int], None] | None = None,
    partition_size: int = PARTITION_SIZE,
) -> Profile:
    """Reads a file once and says what it found in each column, or in those named.

    Every count but those of distinct values is exact; these are exact up to `values.bound_for` of them, and what
    is reported about a column's values beyond that rests on a sample.
    """
    return profile_of(count_file(path, settings, partition_size, columns, progress))


def profile_of(counted: FileCounts) -> Profile:
    """What the counts of a file tell."""
    seen = [Column(column) for column in counted.columns]
    texts = [column for column in seen if column.counted.is_text]
    words = dict(zip((column.name for column in texts), find_null_words(texts), strict=True))
    columns = [
        _profile(column, words[column.name]) if column.name in words else _typed_profile(column)
        for column in seen
    ]
    table = TableFacts(
        seen,
        [column.numbers for column in columns],
        counted.table,
        counted.rows,
        counted.all_names,
        counted.given_names,
    )
    return Profile(
        counted.name,
        counted.detected,
        counted.rows,
        columns,
        counted.all_names,
        counted.unfit,
        counted.unfit_examples,
        counted.read_as,
        counted.layout_found,
        counted.hint,
        # Of some of the columns nothing can be said about whole rows.
        find_in_table(table) if len(columns) == len(counted.all_names) else [],
    )


def _profile(column: Column, words: Found) -> ColumnProfile:
    found = find_white_space(column)
    found.add(words)
    booleans = find_booleans(column)
    dates, date_column = (Found(), None) if booleans.findings else find_dates(column)
    numbers, number_column = Found(), None
    if date_column is None and not booleans.findings:
        numbers, number_column = find_numbers(column)
    if number_column is not None:
        found.add(find_outliers(column, number_column))
    lists, list_column = Found(), None
    if not (booleans.findings or dates.findings or numbers.findings):
        lists, list_column = find_lists(column)
        content = list_column.names if list_column else column.said
        if list_column:
            _leave_to_lists(found)
        cases, content = find_letter_case(column, content, list_column is not None)
        found.add(cases)
        found.add(find_near_variants(column, content, list_column is not None))
    for more in (lists, booleans, dates, numbers):
        found.add(more)
    values = column.counted.values
    proposals = sorted(found.proposals, key=lambda one: list(Stage).index(one.stage))
    filled = column.counted.facts.cells - column.counted.facts.nulls
    proven = prove(column.name, values.values, values.counts, proposals, filled)
    order = sorted(range(len(values.counts)), key=lambda i: -int(values.counts[i]))[:MOST_FREQUENT]
    if list_column:
        found.findings = [_in_cells(finding, proven) for finding in found.findings]
    if not values.exact:
        found.findings = [_estimated(finding, column) for finding in found.findings]
    findings = sorted(found.findings, key=lambda one: (not one.is_fault, -one.kind.harm))
    return ColumnProfile(
        column.name,
        column.counted.facts,
        values.distinct,
        values.exact,
        [(values.values[i].as_py(), int(values.counts[i])) for i in order],
        _looks(column, booleans, date_column, number_column, list_column),
        numbers=number_column,
        dates=date_column,
        listed=list_column,
        findings=findings,
        proposals=sorted(proven, key=lambda one: not one.sure),
    )


NUMBERS = (ValueType.INTEGER, ValueType.FLOAT, ValueType.DECIMAL)
MOMENTS = (ValueType.DATE, ValueType.TIME, ValueType.TIMESTAMP)


def _typed_profile(column: Column) -> ColumnProfile:
    """A column that is not a text in its file: it has its type, and only its values may be odd."""
    counted, found = column.counted, Found()
    numbers = find_numbers(column)[1] if counted.type in NUMBERS else None
    dates = find_dates(column)[1] if counted.type in MOMENTS else None
    if numbers is not None:
        found.add(find_outliers(column, numbers))
    values = counted.values
    order = sorted(range(len(values.counts)), key=lambda i: -int(values.counts[i]))[:MOST_FREQUENT]
    return ColumnProfile(
        column.name,
        counted.facts,
        values.distinct,
        values.exact,
        [(values.values[i].as_py(), int(values.counts[i])) for i in order],
        counted.stored if column.said.cells else "nothing",
        counted.stored,
        numbers=numbers,
        dates=dates,
        findings=found.findings if values.exact else [_estimated(one, column) for one in found.findings],
    )


def _in_cells(finding: Finding, proven: list[Proposal]) -> Finding:
    """What was found in parts of lists, by the cells that the step for it changes."""
    if finding.kind not in (Kind.LETTER_CASE, Kind.NEAR_VARIANTS):
        return finding
    for proposal in proven:
        if proposal.mends == (finding.kind,):
            return replace(finding, cells=proposal.cells, about=proposal.about)
    return finding


COUNTED = (Kind.OUTER_SPACE, Kind.INNER_SPACE, Kind.UNUSUAL_SPACE, Kind.EMPTY_TEXTS, Kind.LISTS)
"""What is counted as the cells pass, whatever becomes of their values."""


def _estimated(finding: Finding, column: Column) -> Finding:
    """A finding that rests on a sample of the values, as it would be of all."""
    if finding.kind in COUNTED or finding.about:
        return finding
    times = column.counted.facts.filled / max(column.everything.cells, 1)
    return replace(finding, cells=round(finding.cells * times), about=True)


def _leave_to_lists(found: Found) -> None:
    """A word that may mean null is reported, and taken out, as a part of the lists among which it is."""
    found.findings = [one for one in found.findings if not (one.kind is Kind.NULL_WORDS and one.question)]
    found.proposals = [one for one in found.proposals if one.sure or one.mends != (Kind.NULL_WORDS,)]


def _looks(
    column: Column,
    booleans: Found,
    dates: DateColumn | None,
    numbers: NumberColumn | None,
    listed: ListColumn | None,
) -> str:
    if not column.said.cells:
        return "nothing"
    if booleans.findings:
        return "boolean"
    if dates is not None:
        return dates.type
    if numbers is not None:
        return numbers.type
    if listed is not None:
        return "list of pairs" if listed.pair_marks else "list"
    return "text"
