"""A recipe as a program uses it: `Recipe.load(path).run(extract)`."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from pathlib import Path
from time import perf_counter
from typing import Any, cast

from mangler.engine.destination import DelimitedOutput, Destination, InMemory
from mangler.engine.memory import half_of_the_machine
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
from mangler.engine.plan import Plan, go_on, plan
from mangler.engine.summary import StepLine, Summary, row_and_line
from mangler.formats.delimited.aside import AsideFile, AsideRow
from mangler.formats.delimited.blocks import BLOCK_SIZE
from mangler.formats.delimited.extract import Extract, open_extract
from mangler.language.layout import one_line
from mangler.language.linking import link
from mangler.language.mistake import ExitCode, Mistake, Refusal, extract_does_not_fit, wrong_recipe
from mangler.language.recipe import ParsedRecipe, load_source, parse_recipe
from mangler.language.source import Source
from mangler.steps import VERBS
from mangler.steps import read as read_verb
from mangler.steps import write as write_verb
from mangler.table.batch import Batch
from mangler.table.contract import BoundStep, Gathering, OpenGathering, is_open
from mangler.table.room import Room
from mangler.table.schema import Column, Schema
from mangler.table.tally import Tally

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


@dataclass(frozen=True)
class Result:
    """`table` holds the cleaned rows when they were not written to a file, else None."""

    summary: Summary
    rows_aside: list[AsideRow]
    preview: list[Batch]
    columns: tuple[Column, ...]
    """The columns that came out."""
    table: Any = None


@dataclass(frozen=True)
class Recipe:
    """A recipe that was read without mistakes."""

    parsed: ParsedRecipe

    @classmethod
    def load(cls, path: str | Path, parameters: Mapping[str, str] | None = None) -> Recipe:
        """Reads a recipe file and those it names; all mistakes are raised together as a Refusal.

        `parameters` are values from outside for the recipe's own, as texts.
        """
        return cls(link(parse_recipe(load_source(Path(path)), VERBS), VERBS, is_function, parameters))

    @classmethod
    def parse(cls, text: str, name: str = "recipe", parameters: Mapping[str, str] | None = None) -> Recipe:
        """Reads a recipe's text. Files that it names are found relative to `name`."""
        return cls(link(parse_recipe(Source(name, text), VERBS), VERBS, is_function, parameters))

    @property
    def title(self) -> str:
        frame = self.parsed.only("mangler")
        text = frame.text("text") if frame else None
        return text.value if text else ""

    def run(
        self,
        extract: str | Path,
        to: str | Path | None = None,
        aside: str | Path | None = None,
        options: RunOptions | None = None,
    ) -> Result:
        """Cleans one extract. Into the file `to`; without it, into a table of the result.

        Rows set aside go to the file `aside` when it is given, and are in the result always. Raises a Refusal
        when the extract does not fit or a file makes trouble; then nothing is written.
        """
        options = options or RunOptions()
        if to is not None:
            return self.clean(str(extract), DelimitedOutput(Path(to)), _path(aside), options)
        memory = InMemory()
        result = self.clean(str(extract), memory, _path(aside), options)
        return Result(result.summary, result.rows_aside, result.preview, result.columns, memory.table)

    def clean(
        self,
        extract: str,
        destination: Destination,
        aside: Path | None,
        options: RunOptions,
        needs_aside_file: bool = False,
    ) -> Result:
        """Cleans one extract into a destination. `needs_aside_file`: rows set aside without a file are a failure."""
        for path in (getattr(destination, "path", None), aside):
            refuse_same_file(extract, path)
        started = perf_counter()
        settings = read_verb.settings(self.parsed.only("read"))
        opened = open_extract(extract, settings, options.block_size, options.rows)
        aside_file = AsideFile(aside, opened.name, opened.names, opened.dialect, opened.from_aside)
        try:
            schema = Schema.of_text(opened.names)
            planned = plan(self.parsed, schema, opened.hint)
            write = self.parsed.only("write")
            place = write.place_of("encoding") if write else None

            def open_with(columns: Schema) -> None:
                destination.open(opened, columns, write_verb.settings(write), place)

            run = _Run(self, opened, planned, destination, open_with, aside_file, options)
            run.read_all()
            summary = run.account()
            if needs_aside_file and summary.balance.set_aside and aside is None:
                raise extract_does_not_fit(
                    f"{opened.name}: {_rows(summary.balance.set_aside)} must be set aside, and there is no file"
                    f" for them.\n{_examples(summary.aside_examples)}",
                    "Name one with --aside PATH.",
                )
            summary.seconds = perf_counter() - started
            aside_file.commit()
            destination.commit()
        finally:
            # After a commit these do nothing; before it they leave everything as it was.
            destination.discard()
            aside_file.discard()
            opened.close()
        return Result(summary, run.rows_aside, run.preview, run.planned.schema.columns)


class _Run:
    """One extract on its way through a plan."""

    def __init__(
        self,
        recipe: Recipe,
        extract: Extract,
        planned: Plan,
        destination: Destination,
        open_with: Callable[[Schema], None],
        aside: AsideFile,
        options: RunOptions,
    ) -> None:
        self.recipe = recipe.parsed
        self.extract, self.destination, self.open_with = extract, destination, open_with
        self.planned = Plan((), planned.schema)
        self.settled: dict[int, BoundStep] = {}
        """Steps whose columns depend on the rows, as they are when all were seen."""
        self.aside_file, self.options = aside, options
        self.rows_aside: list[AsideRow] = []
        self.preview: list[Batch] = []
        self.padded = 0
        self.read_statement = recipe.parsed.only("read")
        self.settings = read_verb.settings(self.read_statement)
        text = one_line(self.read_statement) if self.read_statement else "read"
        self.summary = Summary(recipe.parsed.source.name, recipe.title, extract.name)
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
        try:
            work = StageWork(stage, self.destination, options.preview)
            gathering = self._begin(work, room)
            blocks = until_row(self.extract.blocks(), options.rows)
            reading = BlockWork(self.extract.parser, work, self.settings.line)
            for result in in_order(blocks, reading, options.workers):
                self._take(result, gathering)
                if options.progress:
                    options.progress(result.last_row, result.bytes_read)
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
        self.destination.finish(self.extract)

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
        self.reading.tally.add(result.reading)
        self.reading.seconds += result.reading_seconds
        balance = self.summary.balance
        balance.read += result.rows_read
        balance.withdrawn += result.unfit
        self.padded += result.padded
        if result.aside:
            self.summary.note_aside(result.aside)
            self.rows_aside += result.aside
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
                f"{self.extract.name}: {_rows(summary.balance.set_aside)} cannot be read as the header says:\n"
                f"{_examples(summary.aside_examples)}",
                "Mend them in the extract, or write ragged aside to set such rows aside.",
                self.read_statement.place_of("ragged") if self.read_statement else None,
            )
        self.refuse_failures()
        summary.balance.require_even()
        for index, (planned, line) in enumerate(zip(self.planned.steps, self.lines, strict=True)):
            line.close(self.settled.get(index, planned.step))
        if self.padded:
            self.reading.remarks.append(f"{_rows(self.padded)} with too few fields filled up with nulls")
        empty_lines = self.extract.cutter.empty_lines
        if empty_lines:
            what = "empty line" if empty_lines == 1 else "empty lines"
            self.reading.remarks.append(f"{empty_lines:,} {what} passed over: no rows")
        comments = self.extract.cutter.comments
        if comments:
            what = "comment line" if comments == 1 else "comment lines"
            self.reading.remarks.append(f"{comments:,} {what} passed over")
        if not summary.balance.read:
            summary.warnings.append(f"{self.extract.name} has a header and no rows")
        if self.options.rows is not None and summary.balance.read >= self.options.rows:
            summary.warnings.append(f"only the first {_rows(self.options.rows)} were read, as --rows says")
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
        if mistakes:
            raise Refusal(mistakes, ExitCode.ANSWER_IS_NO)


def is_function(name: str) -> bool:
    """Whether the language has a function of this name; they are loaded only to be asked."""
    from mangler.expressions.registry import FUNCTIONS

    return name in FUNCTIONS


def refuse_same_file(extract: str, path: Path | None) -> None:
    """An output that is its own extract would be gone for the next run."""
    if path is None or extract == "-":
        return
    try:
        same = path.exists() and path.samefile(extract)
    except OSError:
        return
    if same:
        raise wrong_recipe(f"{path} is the extract itself", "Write the cleaned table to another file.")


def _path(path: str | Path | None) -> Path | None:
    return None if path is None else Path(path)


def _rows(count: int) -> str:
    return f"{count:,} {'row' if count == 1 else 'rows'}"


def _examples(rows: list[AsideRow]) -> str:
    return "\n".join(f"    row {row.row:,}, line {row.line:,}: {row.reason}" for row in rows)
