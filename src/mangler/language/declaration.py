"""What a verb declares about itself, for the parser, the formatter, the reference and completion alike."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import field
from typing import Protocol

from mangler.language.mistake import Mistake
from mangler.language.statement import Statement
from mangler.late_dataclass import dataclass


@dataclass(frozen=True)
class Example:
    """A statement with a table before and after it, in the form of a recipe's `test`."""

    statement: str
    before: str
    after: str


@dataclass(frozen=True)
class Declaration:
    """A verb: its usage line, a sentence on what it does, and one for each clause.

    It also says what the rest of the program must know of a verb, which has no list of verbs of its own.
    """

    name: str
    usage: str
    meaning: str
    clauses: Mapping[str, str] = field(default_factory=dict)
    examples: tuple[Example, ...] = ()
    notes: str = ""
    is_step: bool = True
    """Whether the verb does something to a table. Others are about files or about other statements."""
    reads_file: str = ""
    """The key of the value that names a file which the verb reads; empty where it reads none."""
    needs_extract_rows: bool = False
    """Whether it is about whole rows of the extract, so that no step that gathers rows may be before it."""
    counters: tuple[str, ...] = ()
    """The names of its own counters in a tally, besides those of rows."""


class Verbs(Protocol):
    """The verbs that a parser is handed; it knows none itself."""

    def names(self) -> Sequence[str]: ...

    def declaration(self, name: str) -> Declaration: ...

    def is_step(self, name: str) -> bool:
        """Whether the verb does something to a table."""
        ...

    def check(self, statement: Statement) -> list[Mistake]:
        """Mistakes in a statement that can be known without any extract."""
        ...
