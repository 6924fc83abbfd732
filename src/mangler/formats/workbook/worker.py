"""The process that reads one workbook for another: a hostile file may end it, and nothing else.

It imports nothing but the reading library, so that it starts at once. Asked on standard input with pickled pairs of a
word and a name, it answers on standard output: `sheets`, `open` a sheet, then `rows`, some thousand at a time.
"""

from __future__ import annotations

import pickle
import resource
import sys
from typing import Any

CELLS = 50_000
"""That are sent at a time."""
BASE = 512 << 20
"""Bytes that the process maps by itself."""


def serve(path: str, memory: int, seconds: int) -> None:
    """Answers until standard input ends; memory in bytes and seconds of work are bounded."""
    _bound(resource.RLIMIT_CPU, seconds)
    _bound(resource.RLIMIT_AS, memory + BASE)
    from python_calamine import CalamineWorkbook

    book: Any = None
    sheet: Any = None
    while True:
        try:
            word, name = pickle.load(sys.stdin.buffer)
        except EOFError:
            return
        try:
            if book is None:
                book = CalamineWorkbook.from_path(path)
            if word == "sheets":
                sheets = [(one.name, str(one.typ), str(one.visible)) for one in book.sheets_metadata]
                _answer((sheets, list(book.sheet_names)))
            elif word == "open":
                sheet = book.get_sheet_by_name(name)
                _answer((sheet.start, sheet.height, sheet.width, _merged(sheet)))
            else:
                _send_rows(sheet)
        except BaseException as error:  # a panic of the library is no Exception
            _answer(("error", type(error).__name__, str(error)))


def _merged(sheet: Any) -> Any:
    """Merged areas; kinds of workbooks of which the library does not know them have none."""
    return sheet.merged_cell_ranges or []


def _send_rows(sheet: Any) -> None:
    rows: list[Any] = []
    most = max(1, CELLS // max(1, sheet.width))
    for row in sheet.iter_rows():
        rows.append(row)
        if len(rows) == most:
            _answer(rows)
            rows = []
    if rows:
        _answer(rows)
    _answer(None)


def _answer(content: Any) -> None:
    sys.stdout.buffer.write(pickle.dumps(content, pickle.HIGHEST_PROTOCOL))
    sys.stdout.buffer.flush()


def _bound(kind: int, value: int) -> None:
    _, hard = resource.getrlimit(kind)
    resource.setrlimit(kind, (value if hard == resource.RLIM_INFINITY else min(value, hard), hard))


if __name__ == "__main__":
    serve(sys.argv[1], int(sys.argv[2]), int(sys.argv[3]))
