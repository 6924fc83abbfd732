"""A run on the screen: a bar while extracts are read, then what happened to each."""

from __future__ import annotations

from dataclasses import dataclass, field

from mangler.cli.answering import show_line, show_refusal
from mangler.cli.progress import ProgressBar
from mangler.engine.run.linked_recipe import Result
from mangler.jobs.events import Event, Finished, Progress, Started, size_of
from mangler.jobs.output_paths import OutputPaths

PREVIEW_ROWS = 10


@dataclass
class RunView:
    """Shows the events of one job. `silent`: no summary and no progress, only errors are shown."""

    all_paths: list[OutputPaths]
    at_once: bool
    """Whether several extracts are read at once: then one bar is for all of them."""
    rehearse: bool
    silent: bool
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
                show_line(f"{extract} is skipped: {outcome.account['message']}")
        elif outcome.refusal is not None:
            show_line(f"{extract} is not delivered:")
            show_refusal(outcome.refusal)
        elif outcome.result is not None and not self.silent:
            _show_result(outcome.result, self.rehearse)
            if len(self.all_paths) > 1:
                show_line("")
        elif outcome.result is not None and outcome.result.summary.not_noted:
            show_line(f"{extract} is delivered, but not noted: {outcome.result.summary.not_noted}")


def _show_result(result: Result, rehearse: bool) -> None:
    from mangler.cli.screen import answer_console, error_console
    from mangler.cli.views.summary_view import show_summary

    if rehearse and result.preview:
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
    show_summary(error_console(), result.summary)
