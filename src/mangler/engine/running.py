"""One extract on its way through a plan: its rows taken through all stages, and the account of them."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from time import perf_counter
from typing import cast

from mangler.engine.destination import Destination
from mangler.engine.memory import LEAST, half_of_the_machine
from mangler.engine.pipeline import (
    WORKERS,
    BlockResult,
    BlockWork,
    Passed,
    ReleasedWork,
    Stage,
    StageWork,
    in_order,
    stages_of,
    until_row,
)
from mangler.engine.plan import Plan, go_on
from mangler.engine.recording import Recorder, Watcher
from mangler.engine.summary import StepLine, Summary, row_and_line
from mangler.formats.delimited.aside import AsideFile, AsideRow
from mangler.formats.delimited.blocks import BLOCK_SIZE
from mangler.formats.delimited.extract import Extract
from mangler.kernels.growth import bounded
from mangler.language.layout import one_line
from mangler.language.mistake import ExitCode, Mistake, Refusal, extract_does_not_fit
from mangler.language.recipe import ParsedRecipe
from mangler.steps import read as read_verb
from mangler.steps.tolerate import tolerated
from mangler.table.batch import Batch
from mangler.table.contract import BoundStep, Gathering, OpenGathering, is_open
from mangler.table.room import Room
from mangler.table.schema import Schema
from mangler.table.tally import Tally

GROWTH, LEAST_BLOCK = 64, 64 << 10
"""How much memory there is for each byte of a block, and the smallest block that is cut."""
SHARE = 2
"""Of the memory, what a step may make of the rows that it sees at once."""
Progress = Callable[[int, int], None]
"""Called with rows and bytes read so far."""


@dataclass(frozen=True)
class RunOptions:
    """How a run is done; nothing here changes what comes out, but for `rows`."""

    rows: int | None = None
    """Only this many rows of the extract are read."""
    preview: int = 0
    """So many cleaned rows are kept in the result."""
    workers: int = WORKERS
    block_size: int = BLOCK_SIZE
    memory: int | None = None
    """Bytes that steps may take which must see all rows; None: half of what the machine has."""
    progress: Progress | None = None
    strict: bool = False
    """Whether any row set aside and any warning keeps the extract from being delivered."""
    recorder: Recorder | None = None
    """Who is told before the output is put in its place, and after."""
    keep_aside: bool = True
    """Whether rows set aside are in the result too: then all of them are in memory."""
    watcher: Watcher | None = None
    """Who sees the rows as they are read, and what deserves a warning."""

    @property
    def bytes_at_once(self) -> int:
        """Bytes of a block: with little memory it is small, so that what steps make of it has room."""
        if self.memory is None:
            return self.block_size
        return min(self.block_size, max(LEAST_BLOCK, self.memory // GROWTH))


class Run:
    """One extract on its way through a plan."""

    def __init__(
        self,
        recipe: ParsedRecipe,
        extract: Extract,
        planned: Plan,
        destination: Destination,
        open_with: Callable[[Schema], None],
        aside: AsideFile,
        options: RunOptions,
    ) -> None:
        self.recipe = recipe
        self.extract, self.destination, self.open_with = extract, destination, open_with
        self.planned = Plan((), planned.schema)
        self.settled: dict[int, BoundStep] = {}
        """Steps whose columns depend on the rows, as they are when all were seen."""
        self.aside_file, self.options = aside, options
        self.rows_aside: list[AsideRow] = []
        self.preview: list[Batch] = []
        self.padded = 0
        self.read_statement = recipe.only("read")
        self.settings = read_verb.settings(self.read_statement)
        text = one_line(self.read_statement) if self.read_statement else "read"
        self.summary = Summary(recipe.source.name, title_of(recipe), extract.name)
        self.summary.found_out = extract.found_out
        self.reading = StepLine(self.settings.line, text)
        self.lines: list[StepLine] = []
        self._go_on(planned)

    def _go_on(self, more: Plan) -> None:
        """Takes in steps that can be bound now; with the last of them the columns are known that go out."""
        self.planned = Plan((*self.planned.steps, *more.steps), more.schema, more.rest)
        self.lines += [
            StepLine(step.statement.line, step.text, file=step.statement.included_from) for step in more.steps
        ]
        self.summary.steps = [self.reading, *self.lines]
        if not more.is_open:
            self.summary.columns = more.schema.names
            self.open_with(more.schema)

    def read_all(self) -> None:
        """Takes the extract's rows through all stages."""
        options = self.options
        stage = self.first_stage = stages_of(self.planned.steps)[0]
        memory = options.memory or half_of_the_machine()
        gathers = sum(hasattr(step.step, "gather") for step in self.planned.steps) + bool(self.planned.rest)
        room = Room(memory // min(2, max(1, gathers)))  # one step releases while the next gathers
        with bounded(max(memory, LEAST) // SHARE):
            self._read_all(stage, room)
        self.destination.finish(self.extract)

    def _read_all(self, stage: Stage, room: Room) -> None:
        options = self.options
        try:
            work = StageWork(stage, self.destination, options.preview)
            gathering = self._begin(work, room)
            blocks = until_row(self.extract.blocks(), options.rows)
            reading = BlockWork(self.extract.parser, work, self.settings.line, options.watcher)
            if options.watcher is not None:
                encoding = self.settings.encoding or self.extract.found_out.get("encoding", "")
                options.watcher.begin(self.extract.names, self.extract.dialect.delimiter, encoding)
            for result in in_order(blocks, reading, options.workers):
                self._take(result, gathering)
                if options.progress:
                    options.progress(result.last_row, result.bytes_read)
            if options.watcher is not None:
                options.watcher.end()
            number = 0
            while gathering is not None:
                number += 1
                gatherer = stage.first + len(stage.steps)
                self._settle(gatherer, gathering)
                stage = stages_of(self.planned.steps)[number]
                released = self._released(gathering, self.lines[gatherer])
                following = StageWork(stage, self.destination, options.preview)
                next_gathering = self._begin(following, room)
                for passed in in_order(enumerate(released, 1), ReleasedWork(following), options.workers):
                    self._pass_on(passed, stage, next_gathering)
                self.lines[gatherer].tally = gathering.tally
                self._balance(gathering.tally)
                gathering = next_gathering
        finally:
            room.close()

    def _settle(self, index: int, gathering: Gathering) -> None:
        """All rows came to a step; where its columns depend on them, the steps after it can be bound now."""
        if is_open(self.planned.steps[index].step):
            step = self.settled[index] = cast(OpenGathering, gathering).settle()
            self._go_on(go_on(self.recipe, self.planned.rest, step.schema))

    def _begin(self, work: StageWork, room: Room) -> Gathering | None:
        return None if work.stage.gathers is None else work.stage.gathers.gather(room)

    def _released(self, gathering: Gathering, line: StepLine) -> Iterator[Batch]:
        """The rows of a gathering step; the seconds that it takes are its own."""
        released = gathering.release()
        while True:
            started = perf_counter()
            batch = next(released, None)
            line.seconds += perf_counter() - started
            if batch is None:
                return
            yield batch

    def _take(self, result: BlockResult, gathering: Gathering | None) -> None:
        if self.options.watcher is not None:
            self.options.watcher.note(result.seen)
        self.reading.tally.add(result.reading)
        self.reading.seconds += result.reading_seconds
        balance = self.summary.balance
        balance.read += result.rows_read
        balance.withdrawn += result.unfit
        self.padded += result.padded
        if result.aside is not None:
            self.summary.note_aside(result.aside)
            if self.options.keep_aside:
                self.rows_aside += result.aside.first(len(result.aside))
            self.aside_file.add(result.aside)
        self._pass_on(result.passed, self.first_stage, gathering)

    def _pass_on(self, passed: Passed, stage: Stage, gathering: Gathering | None) -> None:
        """Accounts for a batch that passed a stage, and hands it to the gathering step or to the destination."""
        lines = self.lines[stage.first : stage.first + len(stage.steps)]
        for line, tally, seconds in zip(lines, passed.tallies, passed.seconds, strict=True):
            line.tally.add(tally)
            line.seconds += seconds
            self._balance(tally)
        if gathering is not None:
            assert passed.batch is not None
            started = perf_counter()
            gathering.absorb(passed.batch)
            self.lines[stage.first + len(stage.steps)].seconds += perf_counter() - started
            return
        self.summary.balance.delivered += passed.rows
        self.destination.take(passed.prepared)
        if passed.preview is not None and sum(map(len, self.preview)) < self.options.preview:
            self.preview.append(passed.preview)

    def _balance(self, tally: Tally) -> None:
        balance = self.summary.balance
        balance.added += tally.rows_added
        balance.dropped += tally.rows_dropped
        balance.merged += tally.rows_merged
        balance.withdrawn += tally.withdrawn

    def account(self) -> Summary:
        """Closes the account, or raises what speaks against delivering."""
        summary = self.summary
        if self.settings.ragged == "stop" and summary.balance.set_aside:
            raise extract_does_not_fit(
                f"{self.extract.name}: {rows_told(summary.balance.set_aside)} cannot be read as the header says:\n"
                f"{examples_told(summary.aside_examples)}",
                "Mend them in the extract, or write ragged aside to set such rows aside.",
                self.read_statement.place_of("ragged") if self.read_statement else None,
            )
        self.refuse_failures()
        self.refuse_intolerable()
        summary.balance.require_even()
        for index, (planned, line) in enumerate(zip(self.planned.steps, self.lines, strict=True)):
            line.close(self.settled.get(index, planned.step))
            summary.warnings += [f"line {line.label}: {warning}" for warning in line.warnings]
        if self.padded:
            self.reading.remarks.append(f"{rows_told(self.padded)} with too few fields filled up with nulls")
        empty_lines = self.extract.cutter.empty_lines
        if empty_lines:
            what = "empty line" if empty_lines == 1 else "empty lines"
            self.reading.remarks.append(f"{empty_lines:,} {what} passed over: no rows")
        comments = self.extract.cutter.comments
        if comments:
            what = "comment line" if comments == 1 else "comment lines"
            self.reading.remarks.append(f"{comments:,} {what} passed over")
        if self.options.watcher is not None:
            summary.warnings += self.options.watcher.warnings()
        if not summary.balance.read:
            summary.warnings.append(f"{self.extract.name} has a header and no rows")
        if self.options.rows is not None and summary.balance.read >= self.options.rows:
            summary.warnings.append(
                f"only the first {rows_told(self.options.rows)} were read, as --rows says"
            )
        return summary

    def refuse_failures(self) -> None:
        """Rows whose value could not be made stop the run: of every such step it is told what, where, how many."""
        mistakes = []
        for planned, line in zip(self.planned.steps, self.lines, strict=True):
            if line.tally.failed:
                rows = "1 row fails" if line.tally.failed == 1 else f"{line.tally.failed:,} rows fail"
                examples = "\n".join(
                    f"    {row_and_line(r, at)}: {why}" for r, at, why in line.tally.failures
                )
                mistakes.append(
                    Mistake(
                        f"{self.extract.name}: {rows} in this step",
                        f"{examples}\nNothing is delivered. Mend the rows, or say what becomes of them:"
                        f" {planned.ways_out}.",
                        planned.statement.place,
                    )
                )
            elif not mistakes and self.options.rows is None and (why := verdict_of(planned.step, line.tally)):
                mistakes.append(
                    Mistake(
                        f"{self.extract.name}: {why}",
                        f"Nothing is delivered. Mend the extract, or write {planned.ways_out}.",
                        planned.statement.place,
                    )
                )
        if mistakes:
            raise Refusal(mistakes, ExitCode.ANSWER_IS_NO)

    def refuse_if_strict(self) -> None:
        """With `strict` nothing may be out of the ordinary."""
        balance, warnings = self.summary.balance, self.summary.warnings
        if not self.options.strict or not (balance.set_aside or warnings):
            return
        told = [f"{rows_told(balance.set_aside)} would be set aside"] * bool(balance.set_aside)
        told += ["1 warning" if len(warnings) == 1 else f"{len(warnings):,} warnings"] * bool(warnings)
        examples = examples_told(self.summary.aside_examples) if balance.set_aside else ""
        lines = [examples] * bool(examples) + [f"    {warning}" for warning in warnings]
        raise extract_does_not_fit(
            f"{self.extract.name}: {' and '.join(told)}, which --strict does not allow:\n" + "\n".join(lines),
            "Nothing is delivered. Mend the extract or the recipe, or run without --strict.",
        )

    def refuse_intolerable(self) -> None:
        """More rows set aside than the recipe tolerates stop the run."""
        statement, balance = self.recipe.only("tolerate"), self.summary.balance
        amount = tolerated(statement)
        if statement is None or amount is None or not amount.exceeded_by(balance.set_aside, balance.read):
            return
        raise extract_does_not_fit(
            f"{self.extract.name}: {rows_told(balance.set_aside)} of {balance.read:,} would be set aside, and"
            f" {amount} {'is' if amount.number == 1 else 'are'} tolerated:\n"
            f"{examples_told(self.summary.aside_examples)}",
            "Nothing is delivered. Mend the rows or the recipe, or tolerate more.",
            statement.place,
        )


def verdict_of(step: BoundStep, tally: Tally) -> str:
    """Why all rows together are not as a step requires; nothing where it requires nothing of them."""
    return str(step.verdict(tally)) if hasattr(step, "verdict") else ""


def title_of(recipe: ParsedRecipe) -> str:
    frame = recipe.only("mangler")
    text = frame.text("text") if frame else None
    return text.value if text else ""


def rows_told(count: int) -> str:
    return f"{count:,} {'row' if count == 1 else 'rows'}"


def examples_told(rows: list[AsideRow]) -> str:
    return "\n".join(f"    row {row.row:,}, line {row.line:,}: {row.reason}" for row in rows)
