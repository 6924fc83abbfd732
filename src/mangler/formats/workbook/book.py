"""A workbook as its reading library gives it: sheets, cells, merged areas; damage, locks and bombs are refusals."""

from __future__ import annotations

import re
import zipfile
from collections.abc import Iterator, Sequence
from typing import Any

from mangler.formats.archive import DAMAGE
from mangler.formats.location import PART_MARK, Location, too_large
from mangler.formats.workbook.reader import WorkbookReader, damaged, locked
from mangler.language.mistake import Refusal, enumerate_names, extract_does_not_fit, file_trouble, nearest
from mangler.late_dataclass import dataclass
from mangler.table.settings import ReadSettings

OLD_MAGIC = b"\xd0\xcf\x11\xe0"
ENCRYPTED_PART = "EncryptedPackage".encode("utf-16-le")
"""The name of the stream in which an old container holds a workbook that is locked with a password."""
SHEET_XML = re.compile(r"^xl/(worksheets/.*|sharedStrings)\.(xml|bin)$|^content\.xml$")
ROW_NUMBER = re.compile(rb"""<(?:\w+:)?row\b[^>]*?\sr\s*=\s*["'](\d{1,7})["']""")
WIDE_COLUMN = re.compile(rb"""\sr\s*=\s*["']([A-Z]{2,3})\d""")
BYTES_PER_CELL = 32
"""The reading library keeps a sheet as a rectangle, and so many bytes for each cell of it."""
PIECE = 1 << 20
FEW_CELLS, CELLS_PER_BYTE = 4_000_000, 200
"""So many cells are read from any file, and more only from one that is large enough to hold them."""
MOST_SHEETS = 10
"""Sheets that a message lists."""


@dataclass
class Sheet:
    """One sheet. Rows are numbered as a spreadsheet program shows them, from 1."""

    name: str
    reader: WorkbookReader
    start: tuple[int, int] | None
    """Row and column of the first cell, from 0."""
    height: int
    width: int
    areas: list[Any]

    @property
    def first_column(self) -> int:
        """How many columns are empty before the first cell."""
        return int(self.start[1]) if self.start is not None else 0

    @property
    def is_empty(self) -> bool:
        return not self.height

    def rows(self) -> Iterator[Sequence[Any]]:
        """All rows from the first one of the sheet on; an empty cell is an empty text."""
        return self.reader.rows()

    def merged(self) -> list[tuple[int, int, int, int]]:
        """Merged areas: first row, first column, last row, last column, from 0; columns without those before."""
        left = self.first_column
        return [(top, start - left, bottom, end - left) for (top, start), (bottom, end) in self.areas]


class Book:
    """An opened workbook."""

    def __init__(self, location: Location) -> None:
        self._location = location
        self.name = location.name.removesuffix(f"{PART_MARK}{location.part}")
        self._refuse_locked()
        self._refuse_bomb()
        self._reader = WorkbookReader(location.file(), self.name, location.memory)

    def sheet_names(self) -> list[str]:
        """The sheets that hold cells and are not hidden."""
        return [
            name
            for name, kind, visible in self._reader.sheets()[0]
            if kind.endswith("WorkSheet") and visible.endswith("Visible")
        ]

    def sheet(self, settings: ReadSettings) -> Sheet:
        """The sheet that is meant: by the address, by the recipe, or the only one that holds cells."""
        said: str | int | None = self._location.part or settings.sheet
        if said is not None:
            return self._opened(self._found(said))
        names = self.sheet_names()
        if len(names) != 1:
            filled = [sheet for sheet in map(self._opened, names) if not sheet.is_empty]
            if len(filled) == 1:
                return self._opened(filled[0].name)  # the one that rows are asked of
            names = [sheet.name for sheet in filled] or names
        if not names:
            raise extract_does_not_fit(
                "no-such-part", f"{self.name} has no sheet of cells", "Is it the right file?"
            )
        if len(names) > 1:
            raise extract_does_not_fit(
                "several-tables",
                f"{self.name} has {len(names)} sheets, and one is to be read: {enumerate_names(names, MOST_SHEETS)}",
                f'Say which in the recipe, read sheet "{names[0]}"; or name it here, {self.name}{PART_MARK}{names[0]};'
                f" or take all as extracts of their own, '{self.name}{PART_MARK}*'.",
            )
        return self._opened(names[0])

    def _found(self, said: str | int) -> str:
        """The name of the sheet that is said, by its name or its number."""
        every = self._reader.sheets()[1]
        if isinstance(said, str) and said in every:
            return said
        if isinstance(said, int) or said.isdigit():
            number = int(said)
            if 1 <= number <= len(every):
                return every[number - 1]
        folded = [name for name in every if name.strip().lower() == str(said).strip().lower()]
        if len(folded) == 1:
            return folded[0]
        close = nearest(str(said), every)
        way = f"Nearest: {close[0]}." if close else f"It has {enumerate_names(every, MOST_SHEETS)}."
        raise extract_does_not_fit("no-such-part", f"{self.name} has no sheet {said}", way)

    def _opened(self, name: str) -> Sheet:
        sheet = Sheet(name, self._reader, *self._reader.open(name))
        cells = sheet.height * sheet.width
        if cells > FEW_CELLS and cells > CELLS_PER_BYTE * self._location.file().stat().st_size:
            raise self._far_apart(sheet.height, sheet.width, f"its file has few of these {cells:,} cells")
        return sheet

    def close(self) -> None:
        self._reader.close()

    def _refuse_locked(self) -> None:
        if self._location.head(4) != OLD_MAGIC:
            return
        with self._location.file().open("rb") as file:
            if ENCRYPTED_PART in file.read(PIECE * 4):
                raise locked(self.name)

    def _refuse_bomb(self) -> None:
        """What unpacks to more than may be taken, and cells so far apart that the rectangle around them would."""
        memory = self._location.memory
        if self._location.head(2) != b"PK" or memory is None:
            return
        try:
            with zipfile.ZipFile(self._location.file()) as package:
                parts = [info for info in package.infolist() if SHEET_XML.match(info.filename)]
                size = sum(info.file_size for info in parts)
                if size > memory:
                    raise too_large(self.name, size, memory)
                for info in parts:
                    if info.filename.startswith("xl/worksheets/") and info.filename.endswith(".xml"):
                        self._refuse_far_apart(package, info, memory)
        except DAMAGE as error:
            raise damaged(self.name, str(error)) from None

    def _refuse_far_apart(self, package: zipfile.ZipFile, info: zipfile.ZipInfo, memory: int) -> None:
        last_row, columns = 0, 26
        rest = b""
        with package.open(info) as part:
            while content := part.read(PIECE):
                content = rest + content
                last_row = max(last_row, max(map(int, ROW_NUMBER.findall(content)), default=0))
                wide = max(
                    (_column_number(letters) for letters in set(WIDE_COLUMN.findall(content))), default=0
                )
                columns = max(columns, wide)
                rest = content[-64:]
        if last_row * columns * BYTES_PER_CELL > memory:
            why = f"that is more than {memory / (1 << 20):,.0f} MB of memory hold"
            raise self._far_apart(last_row, columns, why)

    def _far_apart(self, rows: int, columns: int, why: str) -> Refusal:
        return file_trouble(
            "unpacks-to-too-much",
            f"{self.name}: a sheet has cells up to row {rows:,} and column {columns:,}, and {why}",
            "Are there stray cells far from the table? Delete them, or save the table by itself.",
        )


def _column_number(letters: bytes) -> int:
    number = 0
    for letter in letters:
        number = number * 26 + letter - 64
    return number
