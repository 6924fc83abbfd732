"""One of two tables that are compared. It is read several times, a few columns of it at a time."""

from __future__ import annotations

import tempfile
from collections.abc import Callable, Iterator, Sequence
from contextlib import closing
from pathlib import Path
from typing import TypeVar

from mangler.formats.contract import ReadRequest, Source
from mangler.formats.delivery import UNFINISHED
from mangler.formats.location import open_location
from mangler.formats.reading import read_partitions
from mangler.formats.registry import open_source
from mangler.kernels.text.text_view import TextArray
from mangler.kernels.values.spelled import spelled
from mangler.late_dataclass import dataclass
from mangler.table.batch import RowNumbers
from mangler.table.in_order import WORKERS
from mangler.table.schema import Schema

Outcome = TypeVar("Outcome")
Progress = Callable[[int, int], None]
PIECE = 1 << 20


@dataclass(frozen=True)
class Side:
    """A table: what it is called, where it is read from, and its columns."""

    name: str
    address: str
    schema: Schema
    progress: Progress | None = None

    @classmethod
    def open(cls, address: str, progress: Progress | None = None) -> Side:
        """Standard input, which comes once, is kept in a temporary file that goes with the process."""
        name = "(standard input)" if address == "-" else address
        kept = _kept() if address == "-" else address
        with closing(_opened(kept, name)) as source:
            return cls(name, kept, source.schema, progress)

    def scan(
        self,
        names: Sequence[str],
        work: Callable[[list[TextArray], RowNumbers], Outcome],
        rows: int | None = None,
    ) -> Iterator[tuple[RowNumbers, int, Outcome]]:
        """What the work gives of each run of rows, with their numbers and how many more do not fit the table.

        The cells of these columns come as texts, in several threads at once; with `rows` only the first of them.
        """
        with closing(_opened(self.address, self.name, rows)) as source:
            places = [source.schema.names.index(name) for name in names]

            def parsed(partition: object) -> tuple[RowNumbers, int, Outcome]:
                found = source.read(partition)  # type: ignore[arg-type]
                batch = found.batch
                if rows is not None:
                    batch = batch.filter(batch.rows <= rows)
                texts = [spelled(batch.columns[place]) for place in places]
                return batch.rows, len(found.unfit), work(texts, batch.rows)

            yield from read_partitions(source, parsed, WORKERS, rows, self.progress)


def _opened(address: str, name: str, rows: int | None = None) -> Source:
    return open_source(address, ReadRequest(rows=rows, survey=True), name)


def _kept() -> str:
    """The bytes of standard input in a file."""
    with tempfile.NamedTemporaryFile(prefix="mangler-", delete=False) as file:
        path = Path(file.name)
        UNFINISHED.add(path)
        with closing(open_location("-")) as location:
            while piece := location.raw.read(PIECE):
                file.write(piece)
    return str(path)
