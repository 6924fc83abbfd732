"""`explain`: a recipe in plain words, step by step, and where each column of its output comes from."""

from __future__ import annotations

from dataclasses import field
from typing import Any

from mangler.engine.plan.plan import steps_of, with_references
from mangler.engine.run.account import title_of
from mangler.insight.explanation.effects import Effect, chosen_columns, columns_read, effect_of
from mangler.insight.explanation.lineage import Lineage, Origin
from mangler.insight.explanation.sentences import SENTENCES
from mangler.insight.explanation.words import Words
from mangler.language.layout import one_line
from mangler.language.mistake import Refusal
from mangler.language.recipe import ParsedRecipe
from mangler.language.statement import Statement
from mangler.late_dataclass import dataclass
from mangler.steps import VERBS, bind
from mangler.table.schema import Column, Schema, ValueType


@dataclass(frozen=True)
class ToldStep:
    """A statement of the recipe in words."""

    label: str
    """Its line, and the file where that is an included one."""
    text: str
    """The statement on one line."""
    sentence: str
    effect: Effect
    is_step: bool
    mistake: str = ""
    """Why it does not fit the extract; empty where it does."""

    def to_json(self) -> dict[str, Any]:
        return {
            "line": self.label,
            "step": self.text,
            "told": self.sentence,
            "makes": list(self.effect.made),
            "changes": list(self.effect.changed),
            "renames": [list(pair) for pair in self.effect.renamed.items()],
            "drops": list(self.effect.gone),
            "looks_at": list(self.effect.looked_at),
            "file": self.effect.file or None,
            "mistake": self.mistake or None,
        }


@dataclass(frozen=True)
class OutputColumn:
    """A column of the output. `steps` are places in the list of what is told."""

    name: str
    sources: tuple[str, ...]
    steps: tuple[int, ...]
    files: tuple[str, ...]


@dataclass
class Explanation:
    recipe: str
    title: str
    extract: str
    """Empty where none was given."""
    columns: list[str]
    """Of the extract; without one those that the recipe mentions before it makes them."""
    told: list[ToldStep] = field(default_factory=list)
    outputs: list[OutputColumn] = field(default_factory=list)
    ended: dict[str, int] = field(default_factory=dict)
    """Columns of the extract that do not reach the output, each with the step that takes it away."""
    is_open: bool = False
    """Whether there are columns whose names depend on the rows."""

    def to_json(self) -> dict[str, Any]:
        """The documented shape of `mangler explain --json`."""
        lines = [one.label for one in self.told]
        return {
            "recipe": self.recipe,
            "title": self.title,
            "extract": self.extract or None,
            "columns": self.columns,
            "steps": [one.to_json() for one in self.told],
            "outputs": [
                {
                    "column": one.name,
                    "sources": list(one.sources),
                    "lines": [lines[at] for at in one.steps],
                    "files": list(one.files),
                }
                for one in self.outputs
            ],
            "ended": {name: lines[at] for name, at in self.ended.items()},
            "is_open": self.is_open,
        }


def explain(recipe: ParsedRecipe, schema: Schema | None, extract: str = "") -> Explanation:
    """Explains a recipe for an extract with these columns; without one for those that the recipe mentions.

    A step that does not fit bears its mistake, and is told all the same.
    """
    known = schema is not None
    at = schema if schema is not None else mentioned(recipe)
    found = Explanation(recipe.source.name, title_of(recipe), extract, list(at.names))
    lineage = Lineage(at.names)
    fits = True
    for statement in recipe.statements:
        if statement.verb in ("mangler", "test"):
            continue
        is_step = VERBS.is_step(statement.verb)
        effect = effect_of(statement, at, known) if is_step else Effect()
        words = Words(statement, _chooser(at, known))
        mistake, after = "", None
        if is_step and known and fits:
            after, refusal = bound_columns(statement, at)
            if refusal is not None:
                mistake = refusal.mistakes[0].message
            elif after is None:
                fits = False
        told = SENTENCES[statement.verb](words)
        found.told.append(ToldStep(statement.label, one_line(statement), told, effect, is_step, mistake))
        if not is_step:
            continue
        found.is_open |= bool(effect.makes_open)
        lineage.take(len(found.told) - 1, effect, after.names if after is not None else None)
        at = after if after is not None else assumed(lineage, at)
    found.outputs = [_output(name, origin) for name, origin in lineage.columns.items()]
    reached = {source for one in found.outputs for source in one.sources}
    own = set(found.columns) - reached
    found.ended = {name: step for name, step in lineage.ended.items() if name in own}
    return found


def bound_columns(statement: Statement, schema: Schema) -> tuple[Schema | None, Refusal | None]:
    """The columns that come out; None where they depend on the rows. Or why the step does not fit."""
    try:
        step = bind(with_references(statement), schema)
    except Refusal as refusal:
        return None, refusal
    return (None if step.is_open else step.schema), None


def assumed(lineage: Lineage, before: Schema) -> Schema:
    """The columns as the effects say; those that are new are taken for text."""
    types = {column.name: column for column in before.columns}
    return Schema(tuple(types.get(name) or Column(name) for name in lineage.columns))


def _output(name: str, origin: Origin) -> OutputColumn:
    return OutputColumn(name, tuple(origin.sources), origin.steps, tuple(origin.files))


def _chooser(schema: Schema, known: bool) -> Any:
    return lambda selector: chosen_columns(selector, schema.columns, known)


def mentioned(recipe: ParsedRecipe) -> Schema:
    """The columns that an extract must have: those that a step needs by name and none before it makes."""
    names: dict[str, None] = {}
    made: dict[str, None] = {}
    for statement in steps_of(recipe):
        names |= dict.fromkeys(name for name in columns_read(statement) if name not in made)
        at = Schema(tuple(Column(name) for name in {**names, **made}))
        effect = effect_of(statement, at, False)
        made |= dict.fromkeys((*effect.made, *effect.renamed.values()))
    return Schema(tuple(Column(name, ValueType.TEXT) for name in names))
