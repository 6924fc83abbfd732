"""Delimited text: the format of files that no other format recognises."""

from __future__ import annotations

from pathlib import Path

from mangler.formats.contract import ReadRequest
from mangler.formats.delimited.opening import open_delimited
from mangler.formats.delimited.sink import DelimitedSink
from mangler.formats.delimited.source import NAME, DelimitedSource
from mangler.formats.location import Location
from mangler.late_dataclass import dataclass


@dataclass(frozen=True)
class DelimitedText:
    name: str = NAME
    words: frozenset[str] = frozenset({"text"})
    is_written: bool = True
    most_rows: int | None = None
    suffixes: tuple[str, ...] = (".csv", ".tsv", ".tab", ".txt")
    read_clauses: frozenset[str] = frozenset(
        {
            "delimiter",
            "in runs",
            "widths",
            "quote",
            "encoding",
            "header row",
            "header absent",
            "header rows",
            "called",
            "names completed",
            "skip",
            "skip last",
            "escape",
            "comment",
            "nulls",
            "ragged",
            "guard formulas",
        }
    )
    write_clauses: frozenset[str] = frozenset(
        {"delimiter", "quotes", "nulls", "line ends", "encoding", "compression", "guard formulas", "widths"}
    )

    def recognises(self, location: Location) -> bool:  # noqa: ARG002
        return True

    def parts(self, location: Location) -> tuple[str, ...]:  # noqa: ARG002
        return ()

    def open(self, location: Location, request: ReadRequest) -> DelimitedSource:
        return open_delimited(location, request)

    def sink(self, path: Path | None, rehearse: bool) -> DelimitedSink:
        return DelimitedSink(path, rehearse)


FORMAT = DelimitedText()
