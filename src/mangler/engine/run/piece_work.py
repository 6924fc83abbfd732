"""The work on a piece of an extract, by a process that knows nothing but what it is given."""

from __future__ import annotations

import io
from collections.abc import Callable, Sequence
from contextlib import closing
from dataclasses import field, replace
from enum import Enum, auto
from pathlib import Path
from time import perf_counter
from typing import Any

import numpy as np

from mangler.distribution import installed_version
from mangler.engine.plan.plan import PlannedStep, go_on
from mangler.engine.run.account import ReadCounts
from mangler.engine.run.destination import FileOutput
from mangler.engine.run.memory import LEAST
from mangler.engine.run.runner import Stage, StageWork, nulls_of
from mangler.formats.aside import AsideRows, aside_rows
from mangler.formats.contract import Partition, ReadRequest, Source
from mangler.formats.dividing import Piece
from mangler.formats.registry import open_source
from mangler.formats.saved_rows import saved
from mangler.freed_memory import keep_freed_memory
from mangler.kernels.text.growth import bounded
from mangler.language.mistake import Refusal, file_trouble
from mangler.language.recipe import ParsedRecipe
from mangler.language.statement import Statement
from mangler.late_dataclass import dataclass
from mangler.table.batch import Batch
from mangler.table.contract import GatheringStep
from mangler.table.memory_budget import MemoryBudget
from mangler.table.packing import packed
from mangler.table.row_notes import RowNotes
from mangler.table.settings import WriteSettings
from mangler.table.state import StateWriter
from mangler.table.stored_types import stored_batch
from mangler.table.tally import MOST_EXAMPLES, Tally


class Ends(Enum):
    """What becomes of the rows of a piece."""

    ENCODED = auto()
    """They are as the output writes them."""
    GATHERED = auto()
    """A step has gathered them, and its state is handed on."""
    ROWS = auto()
    """They are handed on as they are: the next step looks at the rows before."""


@dataclass(frozen=True)
class OfPartition:
    """What happened to one partition."""

    read: ReadCounts
    aside: AsideRows | None
    noted: list[tuple[str, RowNotes]]
    """Which rows reading and steps set aside, each with the line in the recipe."""
    observed: Any
    tallies: list[Tally]
    seconds: list[float]
    rows: int
    rows_out: Any = None
    """The encoded rows, or the rows as a record batch; None where they were gathered."""
    bytes_read: int = 0
    last_row: int = 0
    nulls_out: tuple[int, ...] = ()
    """Null cells of each column that comes out."""


@dataclass
class OfPiece:
    """What happened to one piece."""

    partitions: list[OfPartition] = field(default_factory=list)
    state: Any = b""
    """What a step has gathered of them."""
    gathering: float = 0.0
    """Seconds of it."""
    encoding: float = 0.0
    file: str = ""


@dataclass(frozen=True)
class PieceWork:
    """What any process needs to work on pieces of an extract."""

    parsed: ParsedRecipe
    steps: tuple[Statement, ...]
    """The steps that rows pass alone, and where these are gathered, the step that gathers them. They hold the content
    of the files that they name."""
    alone: int
    """How many of them rows pass alone."""
    ends: Ends
    extract: str
    """The file, as any process finds it."""
    name: str
    """The file as messages name it."""
    size: int
    request: ReadRequest
    memory: int
    partitions_per_piece: int
    read_label: str
    write: WriteSettings
    output: Path | None
    observe: Callable[[Batch], Any] | None = None
    version: str = field(default_factory=installed_version)

    def __call__(self, piece: Piece) -> OfPiece:
        keep_freed_memory()
        if self.version != (own := installed_version()):
            raise _unlike(f"has Mangler {own}, and {self.version} is needed")
        with bounded(max(self.memory, LEAST) // 2), closing(self._opened()) as source:
            return _Work(self, source).on(piece)

    def _opened(self) -> Source:
        try:
            found = Path(self.extract).stat().st_size
        except OSError as error:
            raise _unlike(f"cannot read {self.extract}: {error.strerror or error}") from None
        if found != self.size:
            raise _unlike(f"has another {self.extract}, of {found:,} bytes, where {self.size:,} are expected")
        return open_source(self.extract, self.request, self.name)


def _unlike(why: str) -> Refusal:
    import platform

    return file_trouble(
        "worker-unlike",
        f"the worker on {platform.node()} {why}",
        "Every worker needs the same version of Mangler, and the same files under the same paths.",
    )


class _Work:
    """The work on one piece by this process."""

    def __init__(self, work: PieceWork, source: Source) -> None:
        self._work, self._source = work, source
        planned = go_on(work.parsed, work.steps, source.schema, source.explain_missing)
        self._alone: Sequence[PlannedStep] = planned.steps[: work.alone]
        self._schema = self._alone[-1].step.schema if self._alone else source.schema
        self._stage = StageWork(Stage(0, tuple(self._alone)), None, False)
        self._output: FileOutput | None = None
        self._gathering = None
        if work.ends is Ends.ENCODED:
            self._output = FileOutput(work.output, rehearse=True)
            self._output.open(self._schema, work.write, source)
        elif work.ends is Ends.GATHERED:
            step = planned.steps[work.alone].step
            assert isinstance(step, GatheringStep)
            self._budget = MemoryBudget(work.memory)
            self._gathering = step.gather(self._budget)

    def on(self, piece: Piece) -> OfPiece:
        assert self._source.division is not None
        out = OfPiece()
        first = piece.index * self._work.partitions_per_piece
        for number, partition in enumerate(self._source.division.partitions(piece)):
            assert number < self._work.partitions_per_piece
            out.partitions.append(self._partition(partition, first + number, out))
        if self._gathering is not None:
            started = perf_counter()
            state = io.BytesIO()
            self._gathering.dump(StateWriter(state))
            out.state = np.frombuffer(state.getbuffer(), np.uint8)  # sent without another copy
            self._budget.close()
            out.gathering += perf_counter() - started
        return out

    def _partition(self, partition: Partition, index: int, out: OfPiece) -> OfPartition:
        started = perf_counter()
        parsed = self._source.read(partition)
        seconds = perf_counter() - started
        observe = self._work.observe
        observed = observe(parsed.batch) if observe is not None else None
        passed = self._stage((0, parsed.batch))
        assert passed.batch is not None
        counts = ReadCounts.of(parsed, seconds)
        out.file = passed.batch.origin.file
        rows_out = self._rows_out(passed.batch, index, out)
        noted = [(self._work.read_label, parsed.unfit), *noted_by(self._alone, passed.tallies)]
        aside = saved(aside_rows(partition, noted)) if any(len(notes) for _, notes in noted) else None
        return OfPartition(
            counts,
            aside,
            noted,
            observed,
            [_without_rows(tally) for tally in passed.tallies],
            passed.seconds,
            passed.rows,
            rows_out,
            partition.bytes_read,
            partition.first_row + partition.row_count - 1,
            nulls_of(passed.batch),
        )

    def _rows_out(self, batch: Batch, index: int, out: OfPiece) -> Any:
        started = perf_counter()
        if self._gathering is not None:
            self._gathering.absorb(batch, index)
            out.gathering += perf_counter() - started
            return None
        if self._output is None:
            return packed(batch)
        encoded = self._output.encode(stored_batch(batch, self._schema))
        out.encoding += perf_counter() - started
        return _portable(encoded)


def noted_by(steps: Sequence[PlannedStep], tallies: Sequence[Tally]) -> list[tuple[str, RowNotes]]:
    """Which rows each of some steps sets aside, with its line in the recipe."""
    return [(one.statement.label, tally.aside) for one, tally in zip(steps, tallies, strict=True)]


def _without_rows(tally: Tally) -> Tally:
    """The counts: the rows set aside are sent by themselves."""
    return replace(tally, aside=tally.aside.first(MOST_EXAMPLES), rows=None)


def _portable(encoded: Any) -> Any:
    """Encoded rows whose bytes can be sent without another copy."""
    content = getattr(encoded, "content", None)
    if isinstance(content, (bytes, memoryview)) and hasattr(encoded, "formulas"):
        return replace(encoded, content=np.frombuffer(content, np.uint8))
    return encoded
