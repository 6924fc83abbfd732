"""Steps that are in no recipe: given on the command line, for `mangler try`."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import date

from mangler.language.cursor import Cursor
from mangler.language.items import Step, cut
from mangler.language.linking import link, with_null_words
from mangler.language.mistake import ExitCode, Mistake, Refusal
from mangler.language.recipe import ParsedRecipe, parse_recipe
from mangler.language.scope import NO_NAMES, Scope
from mangler.language.source import Source, SourceSpan
from mangler.language.source_text import source_of
from mangler.language.statement import Statement
from mangler.language.statement_reader import read_statement
from mangler.late_dataclass import dataclass
from mangler.steps import VERBS

NO_STEP = {
    "parameter": "It belongs in a recipe, which --recipe names.",
    "define": "It belongs in a recipe, which --recipe names.",
    "import": "It belongs in a recipe, which --recipe names.",
    "include": "It belongs in a recipe, which --recipe names.",
    "read": "It comes first, and once: before all steps.",
    "mangler": "Every recipe has it; mangler try --save puts it in front of a new one.",
    "write": "It comes last, and once: after all steps.",
    "tolerate": "Nothing is delivered here. It belongs in a recipe.",
    "test": "Tests are in a recipe, under their steps; mangler test runs them.",
}


@dataclass(frozen=True)
class Tried:
    """What is to be tried: steps, and before and after them how the file is read and what would be written."""

    read: Statement | None
    steps: list[Statement]
    write: Statement | None


def read_tried(texts: Sequence[str]) -> Tried:
    """The statements given to `mangler try`; the mistakes of all are raised together."""
    statements = _statements(texts, ("read", "write"))
    read = statements.pop(0) if statements[0].verb == "read" else None
    write = statements.pop() if statements and statements[-1].verb == "write" else None
    return Tried(read, statements, write)


def read_steps(texts: Sequence[str]) -> list[Statement]:
    """The statements of steps given on the command line; the mistakes of all are raised together."""
    return _statements(texts, ())


def _statements(texts: Sequence[str], at_the_ends: tuple[str, ...]) -> list[Statement]:
    """`at_the_ends`: verbs that are allowed as the first and the last statement, and are no steps."""
    first, last = at_the_ends or ("", "")
    statements: list[Statement] = []
    mistakes: list[Mistake] = []
    for number, text in enumerate(texts, 1):
        source = source_of("STEP" if len(texts) == 1 else f"STEP {number}", text.strip())
        chunks = [chunk for chunk in cut(source) if chunk.kind == "statement"]
        if not chunks:
            mistakes.append(
                Mistake(
                    "statement-needed", f"{source.name} holds no statement", "Write one: 'trim * squeeze'."
                )
            )
        for chunk in chunks:
            try:
                statement = read_statement(Cursor(source, chunk.start, chunk.end), VERBS)
            except Refusal as refusal:
                mistakes += refusal.mistakes
                continue
            mistakes += VERBS.check(statement)
            is_first = statement.verb == first and not statements
            is_last = statement.verb == last and number == len(texts) and chunk is chunks[-1]
            if not (VERBS.is_step(statement.verb) or is_first or is_last):
                start = statement.span.start
                mistakes.append(
                    Mistake(
                        "not-a-step",
                        f"{statement.verb} is not a step that could be tried",
                        NO_STEP[statement.verb],
                        SourceSpan(source, start, start + len(statement.verb)),
                    )
                )
            statements.append(statement)
    if mistakes:
        raise Refusal(mistakes, ExitCode.WRONG_FOR_ANY_EXTRACT)
    return statements


def scope_of(recipe: ParsedRecipe) -> Scope:
    """The parameters and functions of a recipe that is linked."""
    own = [statement for statement in recipe.statements if not statement.included_from]
    return own[0].scope if own else NO_NAMES


def in_scope_of(recipe: ParsedRecipe, steps: Sequence[Statement]) -> list[Statement]:
    """Steps that may use the recipe's parameters and functions, and its words for null."""
    scope = scope_of(recipe)
    words = with_null_words(recipe).statements[0].null_words
    return [replace(step, scope=scope, null_words=words) for step in steps]


def reading_as(recipe: ParsedRecipe, read: Statement) -> ParsedRecipe:
    """A recipe with another `read`."""
    own = [item for item in recipe.items if not (isinstance(item, Step) and item.statement.verb == "read")]
    return replace(recipe, items=(*own, Step(read, False)))


def recipe_of(read: Statement | None, run_date: date | None = None) -> ParsedRecipe:
    """A recipe without steps, which reads as is said."""
    bare = parse_recipe(Source("recipe", "mangler 1"), VERBS)
    if run_date is not None:
        bare = link(bare, VERBS, lambda _: False, None, None, run_date)
    return ParsedRecipe(bare.source, (*bare.items, *([Step(read, False)] if read else [])))
