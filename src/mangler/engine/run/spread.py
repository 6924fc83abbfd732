"""An extract spread over a workforce: pieces are worked on anywhere, and what comes back is taken on in order."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import replace
from io import BytesIO
from pathlib import Path
from typing import Any, Protocol

from mangler.addresses import is_elsewhere as is_address
from mangler.engine.plan.plan import Plan, with_references
from mangler.engine.run.destination import FileOutput
from mangler.engine.run.memory import half_of_the_machine
from mangler.engine.run.options import RunOptions
from mangler.engine.run.piece_work import Ends, OfPartition, OfPiece, PieceWork, noted_by
from mangler.engine.run.runner import Passed, Stage, StageWork, StepRunner
from mangler.formats.aside import aside_rows
from mangler.formats.contract import Partition, ReadRequest, Sink, Source
from mangler.formats.dividing import Helpers, Piece, is_small, size_of_pieces
from mangler.formats.location import split_address
from mangler.formats.registry import format_of_output
from mangler.language.recipe import ParsedRecipe
from mangler.late_dataclass import dataclass
from mangler.steps import read as read_verb
from mangler.steps import write as write_verb
from mangler.table.contract import RowStep
from mangler.table.in_order import in_order
from mangler.table.packing import MixedOrigin, unpacked
from mangler.table.state import StateReader


class Workforce(Protocol):
    """Those who do work: threads of this process, other processes, a cluster. All of them do the same."""

    @property
    def threads(self) -> int:
        """How many items are worked on at a time."""
        ...

    @property
    def memory(self) -> int | None:
        """Bytes that the work on one item may take; None where that is not known."""
        ...

    def map_ordered(self, function: Callable[[Any], Any], items: Iterable[Any], /) -> Iterator[Any]:
        """The outcomes of all items in their order. What a call raises is raised here."""
        ...


@dataclass(frozen=True)
class Spread:
    """One extract to be spread over a workforce."""

    workforce: Workforce
    parsed: ParsedRecipe
    extract: str
    request: ReadRequest
    sink: Sink
    options: RunOptions

    @property
    def _size(self) -> int:
        return Path(split_address(self.extract)[0]).stat().st_size

    def why_not(self, source: Source) -> str | None:
        """Why the extract is worked on here: a remark, empty where that is as it should be. None: it is spread."""
        if is_elsewhere(self.extract) or self.options.rows is not None or self.options.preview:
            return ""
        if is_small(self._size) and not self.options.divides_small:
            return ""
        if source.division is None:
            return f"{source.details.get('format', 'its format')} is read from its start on"
        return None

    def pieces(self, source: Source) -> tuple[list[Piece], int] | str:
        """The pieces, and the number of partitions that each has at most; or why there are none."""
        assert source.division is not None
        size = size_of_pieces(self._size, self.workforce.threads)
        found = source.division.pieces(size, self.workforce.map_ordered)
        if isinstance(found, str):
            return found
        largest = max((piece.end - piece.start for piece in found), default=0)
        return list(found), source.division.most_partitions(max(size, largest))

    def work(self, plan: Plan, stage: Stage, source: Source, partitions: int) -> PieceWork:
        """What a process does with a piece in the first stage of a plan."""
        alone = _alone(stage)
        write = write_verb.settings(self.parsed.only("write"))
        ends = Ends.ROWS
        if alone == len(stage.steps):
            ends = Ends.GATHERED if stage.gathers is not None else self._encoded_there(source)
        count = alone + (ends is Ends.GATHERED)
        watcher = self.options.watcher
        path = Path(split_address(self.extract)[0])
        return PieceWork(
            self.parsed,
            tuple(with_references(one.statement) for one in plan.steps[:count]),
            alone,
            ends,
            str(path.absolute()),
            source.name,
            path.stat().st_size,
            replace(
                self.request,
                digest=False,
                memory=self.workforce.memory or self.request.memory,
                helpers=None,
                known=source.division.known if source.division is not None else None,
            ),
            self.workforce.memory or (self.options.memory or half_of_the_machine()) // self.workforce.threads,
            partitions,
            str(read_verb.settings(self.parsed.only("read")).line),
            write,
            self.sink.path,
            None if watcher is None else watcher.observer(),
        )

    def _encoded_there(self, source: Source) -> Ends:
        """Whether the output's rows are encoded where they are cleaned."""
        write = write_verb.settings(self.parsed.only("write"))
        if (
            not isinstance(self.sink, FileOutput)
            or self.sink.behind
            or self.sink.address
            or write.makes_folder
        ):
            return Ends.ROWS
        chosen = format_of_output(source, self.sink.path, write)
        return (
            Ends.ENCODED if "compression" in chosen.write_clauses and chosen.most_rows is None else Ends.ROWS
        )


def is_elsewhere(extract: str) -> bool:
    """Whether an extract is in no file: it is read where it comes in."""
    return extract == "-" or is_address(extract)


def helpers_of(options: RunOptions, extract: str) -> Helpers | None:
    """Those who help to open an extract; None where it is worked on here."""
    workforce = options.workforce
    if workforce is None or is_elsewhere(extract) or options.rows is not None or options.preview:
        return None
    return Helpers(workforce.map_ordered, workforce.threads, options.divides_small)


def _alone(stage: Stage) -> int:
    """How many of its first steps look at one row at a time."""
    steps = stage.steps
    return next((n for n, one in enumerate(steps) if not isinstance(one.step, RowStep)), len(steps))


def taken_on(
    results: Iterable[OfPiece],
    pieces: Sequence[Piece],
    source: Source,
    work: PieceWork,
    runner: StepRunner,
    note: Callable[[int, OfPartition], None],
    threads: int,
) -> None:
    """Takes on what came of pieces, in their order. `note` is told of each partition before its rows are taken on."""
    stage = runner.work.stage
    later = stage.steps[work.alone :]
    rest = StageWork(Stage(stage.first, later, stage.gathers), runner.encode, False)
    origin, again = MixedOrigin(work.name), _Again(source, pieces)

    def go_on(item: _Numbered) -> tuple[_Numbered, Passed]:
        one = item.one
        if work.ends is not Ends.ROWS:
            encoded = (one.rows_out, None) if work.ends is Ends.ENCODED else None
            return item, Passed(one.rows, None, one.tallies, one.seconds, [], encoded, one.nulls_out)
        passed = rest((item.index, unpacked(one.rows_out, origin)))
        passed.tallies = [*one.tallies, *passed.tallies]
        passed.seconds = [*one.seconds, *passed.seconds]
        return item, passed

    def partitions() -> Iterator[_Numbered]:
        index = 0
        for piece, result in enumerate(results):
            for number, one in enumerate(result.partitions):
                yield _Numbered(index, piece, number, one)
                index += 1
            if work.ends is Ends.GATHERED:
                runner.merge(StateReader(BytesIO(result.state)), result.gathering)

    here = threads if work.ends is Ends.ROWS else 1
    for item, passed in in_order(partitions(), go_on, here):
        one = item.one
        noted = noted_by(later, passed.tallies[work.alone :]) if work.ends is Ends.ROWS else []
        if any(len(notes) for _, notes in noted):
            partition = again.partition(item.piece, item.number)
            one = replace(one, aside=aside_rows(partition, [*one.noted, *noted]))
        note(item.index, one)
        runner.accept(item.index, passed)


@dataclass(frozen=True)
class _Numbered:
    """A partition: its number among all, its piece, and its number there."""

    index: int
    piece: int
    number: int
    one: OfPartition


class _Again:
    """Partitions of pieces read once more, for rows that a step here sets aside; asked for in ascending order."""

    def __init__(self, source: Source, pieces: Sequence[Piece]) -> None:
        self._source, self._pieces = source, pieces
        self._piece = -1
        self._partitions: Iterator[tuple[int, Partition]] = iter(())

    def partition(self, piece: int, number: int) -> Partition:
        if piece != self._piece:
            assert self._source.division is not None
            self._piece = piece
            self._partitions = enumerate(self._source.division.partitions(self._pieces[piece]))
        return next(partition for at, partition in self._partitions if at == number)
