"""What a recipe says of the file it reads and the file it writes. None: not said, so detected or as read."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import field
from pathlib import Path
from typing import Any

from mangler.language.source import SourceSpan
from mangler.late_dataclass import dataclass


@dataclass(frozen=True)
class ReadSettings:
    format: str | None = None
    """A format's word in recipes: `text`, `json`, `parquet`, `arrow`, `workbook`."""
    sheet: str | int | None = None
    """The sheet of a workbook by its name, or by its number from 1."""
    merged_repeat: bool = False
    """Whether every cell of a merged area has its value; else only the first one."""
    guard_formulas: bool = False
    """Whether the mark is taken off that keeps texts from being formulas."""
    delimiter: str | None = None
    """One character, or several in a row."""
    in_runs: bool = False
    """Whether several delimiters in a row are one, and those at the ends of a line none."""
    widths: tuple[int, ...] = ()
    """How many characters wide each column is, for columns that are aligned by blanks."""
    quote: str = '"'
    encoding: str | None = None
    """Python's name of the codec."""
    header_absent: bool = False
    header_row: int | None = None
    """On which line, after the skipped lines, the names are; None: on the first one that holds something."""
    header_rows: int = 1
    """On how many lines the names are."""
    called: tuple[str, ...] | None = None
    names_completed: bool = False
    """Whether columns without a name, or with the name of another, get one."""
    skip: int = 0
    skip_last: int = 0
    escape: str = ""
    comment: str = ""
    nulls: tuple[str, ...] = ()
    table: str | None = None
    """Of a database, the table that is read."""
    query: str | None = None
    query_from: Path | None = None
    """The file that holds the query."""
    newer_than: str | None = None
    """The column whose values grow: only rows beyond those that were delivered are new."""
    overlap: int = 0
    """So many of its last values are read again."""
    parameters: Mapping[str, Any] = field(default_factory=dict, compare=False, repr=False)
    """The values that a query may need; secrets too."""
    ragged: str = "aside"
    """`aside`, `stop`, or `pad`: what happens to rows with too few or too many fields."""
    line: int = 0
    """The line of the read statement in the recipe, 0 when it has none."""
    spans: Mapping[str, SourceSpan] = field(default_factory=dict, compare=False, repr=False)
    """Where the recipe says it, by clause."""

    @property
    def clauses(self) -> frozenset[str]:
        """The clauses that the recipe has."""
        return frozenset(self.spans)


@dataclass(frozen=True)
class WriteSettings:
    format: str | None = None
    """A format's word in recipes: `text`, `jsonl`, `parquet` and others."""
    compression: str | None = None
    """`none`, or the name of a way to compress."""
    by: tuple[str, ...] = ()
    """Columns of which each value has a file of its own."""
    named: tuple[str | tuple[str], ...] = ()
    """The names of these files: plain stretches, and columns in tuples; empty: the values themselves."""
    table: str | None = None
    """Of a database, the table that is written."""
    table_rows: str | None = None
    """`create`, `append` or `replace`: what becomes of rows that it has."""
    rows_per_file: int | None = None
    """Rows of each of several files; None: one file holds all."""
    widths: tuple[int, ...] = ()
    """How many characters wide each column is written, without delimiters."""
    guard_formulas: bool = False
    """Whether texts that a spreadsheet would run as formulas get a mark in front."""
    delimiter: str | None = None
    quotes: str = "sparing"
    """`sparing`: only cells that need quotes get them; `always`: every cell that is not null."""
    nulls: str = ""
    line_end: str | None = None
    """`lf` or `crlf`"""
    encoding: str | None = None
    """Python's name of the codec; UTF-8 when it is not said."""
    spans: Mapping[str, SourceSpan] = field(default_factory=dict, compare=False, repr=False)
    """Where the recipe says it, by clause."""

    @property
    def clauses(self) -> frozenset[str]:
        """The clauses that the recipe has."""
        return frozenset(self.spans)

    @property
    def makes_folder(self) -> bool:
        """Whether the output is a folder of several files."""
        return bool(self.by) or self.rows_per_file is not None
