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
from mangler.steps import VERBS

NO_STEP = {
    "parameter": "It belongs in a recipe, which --recipe names.",
    "define": "It belongs in a recipe, which --recipe names.",
    "import": "It belongs in a recipe, which --recipe names.",
    "include": "It belongs in a recipe, which --recipe names.",
    "read": "How a file is read is said with --read, or in the recipe.",
    "mangler": "Every recipe has it; mangler try --save puts it in front of a new one.",
    "write": "Nothing is written here. It belongs in a recipe.",
    "tolerate": "Nothing is delivered here. It belongs in a recipe.",
    "test": "Tests are in a recipe, under their steps; mangler test runs them.",
}


def read_steps(texts: Sequence[str]) -> list[Statement]:
    """The statements of steps given on the command line; the mistakes of all are raised together."""
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
            if not VERBS.is_step(statement.verb):
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


def recipe_of(read: Statement | None, run_date: date | None = None) -> ParsedRecipe:
    """A recipe without steps, which reads as is said."""
    bare = parse_recipe(Source("recipe", "mangler 1"), VERBS)
    if run_date is not None:
        bare = link(bare, VERBS, lambda _: False, None, None, run_date)
    return ParsedRecipe(bare.source, (*bare.items, *([Step(read, False)] if read else [])))
