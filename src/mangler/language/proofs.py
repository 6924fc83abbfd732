"""Which steps each test of a recipe proves."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from mangler.language.cursor import Cursor
from mangler.language.declaration import Verbs
from mangler.language.items import Comments, Item, Step
from mangler.language.mistake import Mistake, Refusal
from mangler.language.source import Source, SourceSpan
from mangler.language.statement import Statement
from mangler.language.statement_reader import read_statement
from mangler.language.tables import SmallTable
from mangler.late_dataclass import dataclass

TEST = "test"


@dataclass(frozen=True)
class Proof:
    """A test and the steps it proves: the last `count` of those above it.

    `switched_off` is the line of the step right above it when that step has `#` before all of its lines: such
    a test is off with its step.
    """

    test: Statement
    above: tuple[Statement, ...]
    count: int
    switched_off: int = 0

    @property
    def steps(self) -> tuple[Statement, ...]:
        return self.above[len(self.above) - self.count :]

    @property
    def title(self) -> str:
        text = self.test.text("text")
        return text.value if text else ""

    @property
    def given(self) -> SmallTable:
        table = self.test.get("given", SmallTable)
        assert table is not None
        return table

    @property
    def expected(self) -> SmallTable:
        table = self.test.get("becomes", SmallTable)
        assert table is not None
        return table


def proofs(items: Sequence[Item], verbs: Verbs) -> Iterator[Proof]:
    """The tests of a recipe in their order."""
    above: list[Statement] = []
    for index, item in enumerate(items):
        if isinstance(item, Comments):
            continue
        if item.statement.verb == TEST:
            count = 1 if (said := item.statement.number("for")) is None else said
            yield Proof(item.statement, tuple(above), count, _switched_off(items[:index], verbs))
        elif verbs.is_step(item.statement.verb):
            above.append(item.statement)


def misplaced(items: Sequence[Item], verbs: Verbs) -> Iterator[Mistake]:
    """Tests that have no steps to prove, or fewer than they say."""
    for proof in proofs(items, verbs):
        if proof.switched_off:
            continue
        if not proof.above:
            yield Mistake(
                "test-without-step",
                "no step is above this test",
                "A test proves the step above it: move it under that step.",
                _head(proof.test),
            )
        elif not 1 <= proof.count <= len(proof.above):
            steps = "1 step is" if len(proof.above) == 1 else f"{len(proof.above)} steps are"
            yield Mistake(
                "test-without-step",
                f"{steps} above this test, and it says for {proof.count} steps",
                f"Write a number from 1 to {len(proof.above)}; without for, it proves the one step above it.",
                proof.test.span_of("for"),
            )


def _head(test: Statement) -> SourceSpan:
    return SourceSpan(test.span.source, test.span.start, test.span.start + len(TEST))


def _switched_off(before: Sequence[Item], verbs: Verbs) -> int:
    """The line of the nearest step above when it is switched off, else 0."""
    for item in reversed(before):
        if isinstance(item, Step):
            if item.statement.verb == TEST:
                continue
            return 0
        if line := _step_in(item, verbs):
            return line
    return 0


def _step_in(comments: Comments, verbs: Verbs) -> int:
    """The line on which a step starts that is all of these comments, from some line to the last; or 0."""
    bare = [line.removeprefix("#") for line in comments.lines]
    for first, line in enumerate(bare):
        text = "\n".join(bare[first:])
        if line.startswith(" "):  # `# trim *` as well as `#trim *`
            text = "\n".join(part.removeprefix(" ") for part in bare[first:])
        verb = text.split(maxsplit=1)[0] if text.strip() else ""
        if not any(name.split()[0] == verb for name in verbs.names()):
            continue
        try:
            statement = read_statement(Cursor(Source("", text), 0, len(text)), verbs)
        except Refusal:
            continue
        if verbs.is_step(statement.verb):
            return comments.line + first
    return 0
