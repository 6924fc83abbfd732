"""The file of rows set aside: each object as it was read, with where it came from and why in front."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import orjson

from mangler.formats.aside import ASIDE_COLUMNS, AsideRow, AsideRows
from mangler.formats.delivery import Delivery, deliver_to
from mangler.formats.json.exact import NotARowError, dumped, exact_row
from mangler.formats.json.scan import RAW_TEXT

ROWS_AT_ONCE = 8192


class JsonAsideFile:
    """Made only when there is a row for it. What is no object is a text under the key `_text`."""

    def __init__(self, path: Path | None, extract: str, in_array: bool) -> None:
        self.path = path
        self._extract, self._in_array = extract, in_array
        self._delivery: Delivery | None = None

    def add(self, rows: AsideRows) -> None:
        if not len(rows) or self.path is None:
            return
        for start in range(0, len(rows), ROWS_AT_ONCE):
            some = rows.only(np.arange(start, min(start + ROWS_AT_ONCE, len(rows))))
            content = (b",\n" if self._in_array else b"\n").join(map(self._line, some.first(len(some))))
            if self._delivery is None:
                self._delivery = deliver_to(self.path)
                content = b"[\n" * self._in_array + content
            elif self._in_array:
                content = b",\n" + content
            self._delivery.write(content if self._in_array else content + b"\n")

    def _line(self, row: AsideRow) -> bytes:
        front = dict(zip(ASIDE_COLUMNS, (self._extract, row.row, row.step, row.reason), strict=True))
        text = " ".join(row.as_read.decode("utf-8", "backslashreplace").splitlines()).strip()
        try:
            own = exact_row(row.as_read)
        except NotARowError:
            return orjson.dumps({**front, RAW_TEXT: text})
        if tuple(own)[: len(ASIDE_COLUMNS)] == ASIDE_COLUMNS:  # it was set aside before
            rest = {key: value for key, value in own.items() if key not in ASIDE_COLUMNS}
            text = dumped(rest)
        inside = text[1:].lstrip()
        comma = b"," if inside != "}" else b""
        return orjson.dumps(front)[:-1] + comma + inside.encode()

    def commit(self) -> None:
        if self._delivery is not None:
            if self._in_array:
                self._delivery.write(b"\n]\n")
            self._delivery.commit()

    def discard(self) -> None:
        if self._delivery is not None:
            self._delivery.discard()
