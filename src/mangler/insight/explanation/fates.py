"""What a recipe would do to a column that the extract does not have yet."""

from __future__ import annotations

from typing import Any

from mangler.engine.plan.plan import steps_of
from mangler.insight.explanation.effects import Effect, chosen_columns, columns_read, effect_of
from mangler.insight.explanation.explanation import assumed, bound_columns, mentioned
from mangler.insight.explanation.lineage import Lineage
from mangler.language.columns import ColumnFamily, ColumnSelector, EveryColumn, MatchingColumns
from mangler.language.layout import one_line
from mangler.language.names import parts_of
from mangler.language.recipe import ParsedRecipe
from mangler.language.statement import Statement
from mangler.late_dataclass import dataclass
from mangler.table.schema import Column, Schema, ValueType


@dataclass(frozen=True)
class FateStep:
    """A statement that does something to the column, and what."""

    label: str
    text: str
    what: str


@dataclass(frozen=True)
class Fate:
    """What a column meets on its way, and whether it reaches the output."""

    name: str
    type: str
    steps: tuple[FateStep, ...]
    end: str

    def to_json(self) -> dict[str, Any]:
        steps = [{"line": one.label, "step": one.text, "what": one.what} for one in self.steps]
        return {"column": self.name, "type": self.type, "steps": steps, "end": self.end}


def fate_of(recipe: ParsedRecipe, schema: Schema | None, added: Column) -> Fate:
    """What the recipe would do to a column that the extract has besides; and how it ends."""
    known = schema is not None
    base = schema if schema is not None else mentioned(recipe)
    at = Schema((*(column for column in base.columns if column.name != added.name), added))
    name = added.name
    fates: list[FateStep] = []
    for statement in steps_of(recipe):
        effect = effect_of(statement, at, True)
        what = _what(statement, effect, name)
        after = bound_columns(statement, at)[0] if known else None
        if what:
            fates.append(FateStep(statement.label, one_line(statement), what))
        if name in effect.gone and name not in effect.made:
            return Fate(added.name, str(added.type), tuple(fates), "It does not reach the output.")
        if effect.renamed.get(name):
            name = effect.renamed[name]
        lineage = Lineage(at.names)
        lineage.take(0, effect, after.names if after is not None else None)
        at = after if after is not None else _converted(statement, assumed(lineage, at), name)
        if name not in at.names:
            return Fate(added.name, str(added.type), tuple(fates), "It does not reach the output.")
    called = f", as {name}" if name != added.name else ""
    if not fates:
        return Fate(added.name, str(added.type), (), "No step touches it: it reaches the output as it is.")
    return Fate(added.name, str(added.type), tuple(fates), f"It reaches the output{called}.")


def _converted(statement: Statement, schema: Schema, name: str) -> Schema:
    """The columns, where the statement gives the added one another type."""
    kind = statement.values.get("to") if statement.verb == "convert" else None
    if kind is None or name not in chosen_columns(statement.columns(), schema.columns, True):
        return schema
    columns = (Column(one.name, ValueType(kind.value)) if one.name == name else one for one in schema.columns)
    return Schema(tuple(columns))


def _what(statement: Statement, effect: Effect, name: str) -> str:
    """What a statement does to a column, and by which words it is meant; empty where it passes."""
    by = _meant_by(statement, name)
    made = ", ".join(new for new, sources in effect.made.items() if name in sources)
    if name in effect.gone and made and statement.verb != "group":
        return f"makes {made} of it{by}, and drops it"
    if name in effect.gone and name not in effect.made:
        if statement.verb in ("keep columns", "group", "pivot"):
            return "drops it, as it is not named" if not by else f"drops it{by}"
        return f"drops it{by}"
    if statement.verb == "require columns" and statement.has("exactly") and not by:
        return "refuses the extract, which may have no other columns"
    if name in effect.renamed:
        return f"names it {effect.renamed[name]}{by}"
    if name in effect.changed:
        return f"changes its cells{by}"
    if name in effect.made:
        return "makes a column of this name: the added one is given new values, or is in the way"
    if made:
        return f"makes {made} of it{by}"
    if any(name in sources for sources in effect.changed.values()):
        return f"looks at it{by}"
    if name in effect.looked_at:
        everything = statement.verb == "dedupe" and not statement.has("by")
        return "looks at it: rows must be alike in all columns" if everything else f"looks at it{by}"
    return ""


def _meant_by(statement: Statement, name: str) -> str:
    """By which of a statement's words a column is meant."""
    for selector in parts_of(statement.values):
        if not isinstance(selector, ColumnSelector):
            continue
        for item in selector.included:
            alone = ColumnSelector((item,), selector.excluded, selector.span)
            if name not in chosen_columns(alone, (Column(name),), False):
                continue
            if isinstance(item, EveryColumn):
                return ", by *"
            if isinstance(item, MatchingColumns):
                return f", by the pattern {item.pattern.span.text.strip()}"
            if isinstance(item, ColumnFamily):
                return f", being one of the {item.family} columns"
            return ", by its name"
    return ", by its name" if name in columns_read(statement) else ""
