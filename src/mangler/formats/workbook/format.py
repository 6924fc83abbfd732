"""Workbooks: Office Open XML and its binary form, the older binary format, OpenDocument spreadsheets."""

from __future__ import annotations

from contextlib import closing
from pathlib import Path

from mangler.formats.contract import ReadRequest
from mangler.formats.location import Location
from mangler.formats.typed_source import TypedSource
from mangler.formats.workbook import sink
from mangler.formats.workbook.book import OLD_MAGIC, Book
from mangler.formats.workbook.reading import NAME, READ_CLAUSES, open_workbook
from mangler.formats.workbook.sink import WorkbookSink
from mangler.late_dataclass import dataclass


@dataclass(frozen=True)
class Workbook:
    name: str = NAME
    words: frozenset[str] = frozenset({"workbook"})
    suffixes: tuple[str, ...] = (".xlsx",)
    read_clauses: frozenset[str] = READ_CLAUSES
    write_clauses: frozenset[str] = frozenset({"format", "guard formulas"})
    is_written: bool = True

    @property
    def most_rows(self) -> int:
        return sink.MOST_ROWS - 1  # one is the header

    def recognises(self, location: Location) -> bool:
        head = location.head(8)
        if head.startswith(OLD_MAGIC):
            return True
        if not head.startswith(b"PK"):
            return False
        from mangler.formats.archive import package_kind

        return package_kind(location) == "workbook"

    def parts(self, location: Location) -> list[str]:
        with closing(Book(location)) as book:
            return book.sheet_names()

    def open(self, location: Location, request: ReadRequest) -> TypedSource:
        return open_workbook(location, request, lambda path: self.sink(path, False))

    def sink(self, path: Path | None, rehearse: bool) -> WorkbookSink:
        return WorkbookSink(path, rehearse)


FORMAT = Workbook()
