"""An extract of delimited text that is opened: its columns are known, its blocks are still to be read."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import cast

from mangler.formats.contract import Explanation, ParsedBatch, Partition
from mangler.formats.delimited.aside import DelimitedAsideFile
from mangler.formats.delimited.block_reader import Block, BlockReader
from mangler.formats.delimited.dialect import Dialect
from mangler.formats.delimited.division import TextDivision
from mangler.formats.delimited.explanation import explain
from mangler.formats.delimited.parse import Parser
from mangler.formats.location import Location
from mangler.late_dataclass import dataclass
from mangler.table.schema import Schema
from mangler.table.settings import ReadSettings

NAME = "delimited text"


@dataclass(frozen=True)
class Sample:
    """The first bytes of the text, from the first line that is not skipped; `complete` where they are the whole."""

    content: bytes
    complete: bool


@dataclass(frozen=True)
class DelimitedSource:
    """An opened extract of delimited text."""

    name: str
    schema: Schema
    dialect: Dialect
    detected: Mapping[str, str]
    details: Mapping[str, str]
    settings: ReadSettings
    """As they were said."""
    read_as: ReadSettings
    layout_found: bool
    names_given: tuple[str, ...]
    sample: Sample
    parser: Parser
    reader: BlockReader
    location: Location
    data_start: int = -1
    """The byte of the file that the first record starts at; -1 where the bytes read are not those of the file."""
    found: tuple[str, ...] = ()
    """Remarks that are known from the start."""

    @property
    def was_set_aside(self) -> bool:
        return self.parser.from_aside

    def partitions(self) -> Iterator[Block]:
        return self.reader.blocks()

    def read(self, partition: Partition) -> ParsedBatch:
        return self.parser.parse(cast(Block, partition))

    @property
    def ends_with_line_end(self) -> bool:
        """Known once all blocks are read."""
        return self.reader.ends_with_line_end

    def explain_missing(self) -> Explanation | None:
        return explain(self.settings, len(self.schema.columns), self.sample.content, self.sample.complete)

    @property
    def division(self) -> TextDivision:
        return TextDivision(self.name, self.location, self.dialect, self.reader, self.data_start)

    def remarks(self) -> list[str]:
        found = list(self.found)
        if count := self.reader.empty_lines:
            found.append(f"{count:,} {'empty line' if count == 1 else 'empty lines'} skipped: no rows")
        if count := self.reader.comments:
            found.append(f"{count:,} {'comment line' if count == 1 else 'comment lines'} skipped")
        return found

    def digest(self) -> str | None:
        return self.location.digest()

    @property
    def newest(self) -> None:
        return None

    def aside_file(self, path: Path | None) -> DelimitedAsideFile:
        return DelimitedAsideFile(
            path, self.name, self.schema.names, self.dialect, from_aside=self.parser.from_aside
        )

    def close(self) -> None:
        self.location.close()
