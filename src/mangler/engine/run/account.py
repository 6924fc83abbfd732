"""The account of a run: what each step counted, the balance of rows, and what the summary says."""

from __future__ import annotations

from collections.abc import Sequence

from mangler.engine.plan.oversights import unused_parameters
from mangler.engine.plan.plan import Plan, PlannedStep
from mangler.engine.run.runner import nulls_of
from mangler.engine.run.summary import StepLine, Summary, rows_text
from mangler.formats.aside import AsideRows
from mangler.formats.contract import ParsedBatch, Source
from mangler.language.layout import one_line
from mangler.language.recipe import ParsedRecipe
from mangler.late_dataclass import dataclass
from mangler.steps import read as read_verb
from mangler.table.contract import Report, Step
from mangler.table.tally import Tally


@dataclass(frozen=True)
class ReadCounts:
    """What reading one partition counted."""

    rows: int
    """Rows that fit the table."""
    unfit: int
    nulls_made: int
    """Cells that held a null word."""
    padded: int
    """Rows with too few fields, filled up with nulls."""
    short: int
    """Unfit rows that have too few fields."""
    seconds: float
    nulls: tuple[int, ...] = ()
    """Null cells of each column."""

    @classmethod
    def of(cls, parsed: ParsedBatch, seconds: float) -> ReadCounts:
        """What was counted of rows that were read in so many seconds."""
        return cls(
            len(parsed.batch),
            len(parsed.unfit),
            parsed.nulls_made,
            parsed.padded,
            parsed.short,
            seconds,
            nulls_of(parsed.batch),
        )


class NullCounts:
    """The null cells of each column, added over batches of one table."""

    def __init__(self) -> None:
        self._counts: list[int] = []

    def add(self, more: tuple[int, ...]) -> None:
        self._counts = [a + b for a, b in zip(self._counts, more, strict=True)] if self._counts else [*more]

    def by_name(self, names: Sequence[str]) -> dict[str, int]:
        """Of each column; 0 where there was no row."""
        return dict(zip(names, self._counts or [0] * len(names), strict=True))


class Account:
    """Filled while rows go through a plan, and closed when all did."""

    def __init__(self, recipe: ParsedRecipe, source: Source, reading: str = "") -> None:
        self.source = source
        statement = recipe.only("read")
        self.summary = Summary(recipe.source.name, title_of(recipe), source.name)
        self.summary.detected = dict(source.detected)
        line = read_verb.settings(statement).line
        write = recipe.only("write")
        if write is not None:
            self.summary.writing = StepLine(write.line, one_line(write), file=write.included_from)
        self._reading = StepLine(line, one_line(statement) if statement else "read")
        self._unused = unused_parameters(recipe)
        if reading:
            self._reading, self._unused = StepLine(0, reading), []
        self.steps: list[PlannedStep] = []
        self.resolved: dict[int, Step] = {}
        """Steps whose columns depend on the rows, as they are when all were seen."""
        self.lines: list[StepLine] = []
        self._nulls_read, self._nulls_out = NullCounts(), NullCounts()
        self.remarks: list[str] = []
        """What is to be said about reading, besides what the source says."""
        self.padded = 0
        self.unfit = 0
        """Rows that reading itself sets aside."""
        self.short = 0
        """Those of them that have too few fields."""

    def add_steps(self, more: Plan) -> None:
        """Takes in steps that are bound."""
        self.steps += more.steps
        self.lines += [
            StepLine(step.statement.line, step.text, file=step.statement.included_from) for step in more.steps
        ]
        self.summary.steps = [self._reading, *self.lines]
        if not more.is_open:
            self.summary.columns = more.schema.names

    def note_reading(self, read: ReadCounts) -> None:
        """Counts the rows of a partition that was read."""
        tally = Tally(rows_in=read.rows + read.unfit, rows_out=read.rows)
        tally.counts["nulls_made"] = read.nulls_made
        self._reading.tally.add(tally)
        self._reading.seconds += read.seconds
        self.summary.balance.read += read.rows + read.unfit
        self.summary.balance.withdrawn += read.unfit
        self._nulls_read.add(read.nulls)
        self.padded += read.padded
        self.unfit += read.unfit
        self.short += read.short

    def note_rows_out(self, rows: int, nulls: tuple[int, ...]) -> None:
        """Counts rows that came out of the last step, and the null cells of each of their columns."""
        self.summary.balance.delivered += rows
        self._nulls_out.add(nulls)

    def note_aside(self, rows: AsideRows) -> None:
        self.summary.note_aside(rows)

    def note_step(self, index: int, tally: Tally, seconds: float) -> None:
        """Counts what a step did with some rows."""
        line, balance = self.lines[index], self.summary.balance
        line.tally.add(tally)
        line.seconds += seconds
        balance.added += tally.rows_added
        balance.dropped += tally.rows_dropped
        balance.merged += tally.rows_merged
        balance.withdrawn += tally.withdrawn

    def report(self, index: int) -> Report:
        """What a step says about the run so far."""
        step = self.resolved.get(index, self.steps[index].step)
        return step.report(self.lines[index].tally)

    def close(
        self, warnings: list[str], only_rows: int | None, remarks: Sequence[str] = (), empty: bool = False
    ) -> Summary:
        """The summary of a run that is accepted.

        `only_rows`: no more rows than these were to be read. `remarks` are about reading and writing. `empty`: that no
        row was read is nothing to warn of.
        """
        summary = self.summary
        summary.nulls_read = self._nulls_read.by_name(self.source.schema.names)
        summary.nulls_delivered = self._nulls_out.by_name(summary.columns)
        for index, line in enumerate(self.lines):
            line.close(self.report(index))
            line.remarks = [*self.steps[index].oversights, *line.remarks]
            summary.warnings += [f"line {line.label}: {warning}" for warning in line.warnings]
        if self.padded:
            self._reading.remarks.append(f"{rows_text(self.padded)} with too few fields filled up with nulls")
        self._reading.remarks += [*self._unused, *self.source.remarks(), *self.remarks, *remarks]
        summary.warnings += warnings
        if not summary.balance.read and not empty:
            summary.warnings.append(f"{self.source.name} has a header and no rows")
        if only_rows is not None and summary.balance.read >= only_rows:
            summary.warnings.append(f"only the first {rows_text(only_rows)} were read, as --rows says")
        return summary


def title_of(recipe: ParsedRecipe) -> str:
    frame = recipe.only("mangler")
    text = frame.text("text") if frame else None
    return text.value if text else ""
