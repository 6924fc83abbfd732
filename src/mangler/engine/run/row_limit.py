"""Refuses rows that the format of an output has no place for before the first of them is written.

To write a sheet takes far longer than to clean its rows. So where an extract may have too many for it, the
rows that come out are counted first, without an output.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from mangler.engine.plan.plan import plan
from mangler.engine.run.destination import Nowhere
from mangler.engine.run.executor import Executor
from mangler.engine.run.options import RunOptions
from mangler.formats.contract import Encoded, Source
from mangler.formats.location import split_address
from mangler.formats.row_limit import too_many_rows
from mangler.language.mistake import Refusal
from mangler.language.recipe import ParsedRecipe
from mangler.table.batch import Batch
from mangler.table.schema import Schema
from mangler.table.settings import WriteSettings

LEAST_SIZE = 256 << 10
"""Bytes. A smaller extract is not counted: if it has too many rows all the same, they are refused when that is seen."""


def refuse_beyond(
    most: int, recipe: ParsedRecipe, extract: str, reopen: Callable[[], Source], options: RunOptions
) -> None:
    """Counts the rows that come out of an extract that is a file, and refuses them where they are too many.

    What else is wrong with the extract is said by the run itself.
    """
    file = Path(split_address(extract)[0])
    rows = options.rows
    if (rows is not None and rows <= most) or not file.is_file() or file.stat().st_size < LEAST_SIZE:
        return
    source, counted = reopen(), _RowCount(most)
    plain = replace(options, preview=0, progress=None, recorder=None, keep_aside=False, watcher=None)
    try:
        planned = plan(recipe, source.schema, source.explain_missing)
        Executor(recipe, source, counted, lambda _: None, source.aside_file(None), plain).run(planned)
    except Refusal:
        if counted.rows_written > most:
            raise
    finally:
        source.close()


class _RowCount(Nowhere):
    """A sink that counts rows, up to those that are too many."""

    def __init__(self, most: int) -> None:
        self._most = most
        self.rows_written = 0

    def open(self, schema: Schema, settings: WriteSettings, like: Source) -> None: ...

    def encode(self, batch: Batch) -> int:
        return len(batch)

    def write(self, encoded: Encoded) -> None:
        self.rows_written += encoded
        if self.rows_written > self._most:
            raise too_many_rows(self._most)
