"""A file that a step looks into, as the engine read it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from mangler.kernels.arrow import ColumnArray
from mangler.language.literals import Name
from mangler.language.mistake import ExitCode, Refusal
from mangler.late_dataclass import dataclass
from mangler.table.batch import RowNumbers
from mangler.table.schema import Schema
from mangler.table.select import missing_column


@dataclass(frozen=True)
class Reference:
    """The columns of a file, as steps see them; `lines[i]` is the physical line of row i, from 1."""

    name: str
    schema: Schema
    columns: tuple[ColumnArray, ...]
    lines: RowNumbers
    unfit: tuple[str, ...] = ()
    """The first rows that do not fit the table, each with its line."""
    unfit_count: int = 0

    def column(self, name: str) -> ColumnArray:
        return self.columns[self.schema.names.index(name)]

    def require(self, names: Sequence[Name]) -> None:
        """Refuses columns that the file does not have, each once."""
        wanted = {name.value: name for name in reversed(names) if name.value not in self.schema.names}
        messages = [
            replace(mistake, message=mistake.message.replace("the extract", self.name), missing=())
            for mistake, _ in (missing_column(name, self.schema) for name in reversed(wanted.values()))
        ]
        if messages:
            raise Refusal(messages, ExitCode.WRONG_FOR_ANY_EXTRACT)

    def __len__(self) -> int:
        return len(self.lines)
