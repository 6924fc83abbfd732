"""Delimited text read in blocks of any size, as a run reads it."""

from __future__ import annotations

from collections.abc import Iterator
from io import BytesIO

from mangler.formats.contract import ParsedBatch
from mangler.formats.delimited.block_reader import BlockReader
from mangler.formats.delimited.dialect import dialect_of
from mangler.formats.delimited.parse import Parser
from mangler.table.settings import ReadSettings


def batches(text: bytes, width: int, delimiter: str, pad: bool, block_size: int) -> Iterator[ParsedBatch]:
    dialect = dialect_of(ReadSettings(), delimiter, False)
    parser = Parser(tuple(map(str, range(width))), dialect, (), pad, "extract")
    reader = BlockReader(
        BytesIO(text),
        b"",
        dialect.spelling,
        width == 1,
        2,
        "extract",
        lambda: 0,
        lambda: ("", ""),
        block_size,
    )
    yield from map(parser.parse, reader.blocks())
