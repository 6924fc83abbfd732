"""A run on the screen: a bar while extracts are read, then what happened to each."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import field

from mangler.cli.answering import show_line, show_refusal
from mangler.cli.progress import ProgressBar
from mangler.engine.run.linked_recipe import Result
from mangler.jobs.events import Event, Finished, Progress, Started, size_of
from mangler.jobs.outcome import Outcome
from mangler.jobs.output_paths import OutputPaths
from mangler.late_dataclass import dataclass

PREVIEW_ROWS = 10
VERDICT_WIDTH = len("not delivered")


@dataclass
class RunView:
    """Shows the events of one job. `silent`: no summary and no progress, only errors are shown."""

    all_paths: list[OutputPaths]
    at_once: bool
    """Whether several extracts are read at once: then one bar is for all of them."""
    rehearse: bool
    silent: bool
    full: bool
    """Whether each extract has its full account; without it, a line."""
    _bar: ProgressBar | None = None
    _read: dict[str, tuple[int, int]] = field(default_factory=dict)
    """Rows and bytes of each extract so far."""
    _rows: int = 0
    _bytes_read: int = 0

    def __call__(self, event: Event) -> None:
        if isinstance(event, Started):
            self._start(event)
        elif isinstance(event, Progress):
            self._show_progress(event)
        else:
            self.close()  # the bar would be among the lines
            self._show_outcome(event)

    def show_together(self, outcomes: Sequence[Outcome]) -> None:
        """What the steps did that saw the rows of all extracts as one table, where there are such."""
        together = next(
            (one.summary.together for one in outcomes if one.summary and one.summary.together), None
        )
        if together is not None:
            from mangler.cli.screen import error_console
            from mangler.cli.views.summary_view import show_summary

            if not self.full:
                show_line("")
            show_summary(error_console(), together)

    def close(self) -> None:
        """Takes the bar off the screen."""
        if self._bar is not None:
            self._bar.close()

    def _start(self, event: Started) -> None:
        if not self.at_once:
            self.close()
            self._bar = ProgressBar(event.extract, event.size, not self.silent)
        elif self._bar is None:
            size = sum(size_of(paths.extract) or 0 for paths in self.all_paths)
            self._bar = ProgressBar(f"{len(self.all_paths)} extracts", size, not self.silent)

    def _show_progress(self, event: Progress) -> None:
        assert self._bar is not None
        if self.at_once:
            rows, bytes_read = self._read.get(event.extract, (0, 0))
            self._read[event.extract] = event.rows, event.bytes_read
            self._rows += event.rows - rows
            self._bytes_read += event.bytes_read - bytes_read
            self._bar(self._rows, self._bytes_read)
        else:
            self._bar(event.rows, event.bytes_read)

    def _show_outcome(self, event: Finished) -> None:
        outcome, extract = event.outcome, event.extract
        if outcome.skipped:
            if not self.silent:
                self._tell("skipped", extract, outcome.account["message"])
        elif outcome.refusal is not None:
            self._tell("not delivered", extract, "")
            show_refusal(outcome.refusal)
        elif outcome.result is not None and not self.silent:
            self._show_result(outcome.result)
        elif outcome.result is not None and outcome.result.summary.not_noted:
            show_line(f"{extract} is delivered, but not noted: {outcome.result.summary.not_noted}")

    def _tell(self, verdict: str, extract: str, why: str) -> None:
        """What happened to an extract: a sentence of its own, or one of the lines, which begin with the verdict."""
        from rich.text import Text

        from mangler.cli.screen import error_console

        why = f" {why}" if why else ""
        line = Text(f"{extract} is {verdict}:{why}")
        if not self.full:
            line = Text.assemble((verdict.ljust(VERDICT_WIDTH), "bold"), f"  {extract}:{why}")
        error_console().print(line, soft_wrap=True)

    def _show_result(self, result: Result) -> None:
        from mangler.cli.screen import error_console
        from mangler.cli.views.summary_view import show_line_of, show_summary

        if self.rehearse and self.full:
            _show_preview(result)
        if self.full:
            show_summary(error_console(), result.summary)
            if len(self.all_paths) > 1:
                show_line("")
        else:
            verdict = "rehearsed" if self.rehearse else "delivered"
            show_line_of(error_console(), result.summary, verdict.ljust(VERDICT_WIDTH))


def _show_preview(result: Result) -> None:
    """The first rows that came out."""
    from mangler.cli.screen import answer_console

    if result.preview:
        from mangler.cli.views.table_view import show_table
        from mangler.language.tables import Cell
        from mangler.table.small import cells_of

        cells: list[list[Cell]] = [[] for _ in result.columns]
        numbers: list[int] = []
        for batch in result.preview:
            for column, array in zip(cells, batch.columns, strict=True):
                column += cells_of(array.slice(0, PREVIEW_ROWS))
            numbers += batch.rows[:PREVIEW_ROWS].tolist()
        first = [column[:PREVIEW_ROWS] for column in cells]
        console = answer_console()
        show_table(console, result.columns, first, numbers[:PREVIEW_ROWS])
        if console.is_terminal:  # the summary is under it
            console.print()
