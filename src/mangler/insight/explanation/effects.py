"""What a statement does to columns and rows, known from the statement and the columns that come to it."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import field
from typing import Any

from mangler.kernels.text.capture import group_names
from mangler.language.columns import ColumnSelector, MatchingColumns, NamedColumn
from mangler.language.literals import Name
from mangler.language.names import columns_mentioned, parts_of
from mangler.language.statement import Statement
from mangler.late_dataclass import dataclass
from mangler.steps import VERBS
from mangler.steps.rename import STYLES
from mangler.steps.shared.columnwise import matching_names
from mangler.steps.split.into_columns import numbered_name
from mangler.table.schema import FAMILIES, Column, Schema

CHANGES_CELLS = {
    "trim": "columns",
    "replace": "in",
    "nullify": "in",
    "keep characters": "in",
    "drop characters": "in",
    "clean list": "columns",
    "recase": "columns",
    "fill": "columns",
    "convert": "columns",
    "change": "columns",
}
"""Verbs that change cells where they are, and the clause that says of which columns."""
TEXT_ONLY = frozenset(CHANGES_CELLS) - {"fill", "convert", "change"}


@dataclass
class Effect:
    """What a statement does. Columns that are in nothing here pass as they are."""

    made: dict[str, tuple[str, ...]] = field(default_factory=dict)
    """New columns, each with the columns that its values come from."""
    changed: dict[str, tuple[str, ...]] = field(default_factory=dict)
    """Columns whose cells may change, each with the further columns that say how."""
    renamed: dict[str, str] = field(default_factory=dict)
    """Old names and new ones."""
    gone: tuple[str, ...] = ()
    looked_at: tuple[str, ...] = ()
    """Columns by which rows are chosen, put in order, brought together or checked."""
    file: str = ""
    """The file that it looks into."""
    makes_open: tuple[str, ...] = ()
    """Columns from whose cells new columns come that are known only when all rows were read."""


def chosen_columns(selector: ColumnSelector, columns: Sequence[Column], known: bool) -> list[str]:
    """The columns that a selector means, in their order; one that is named and not there is left out.

    Where the types are not `known`, a family of columns may be any of them.
    """
    names = [column.name for column in columns]

    def meant(items: Sequence[Any], whole: bool) -> set[str]:
        found: set[str] = set()
        for item in items:
            if isinstance(item, NamedColumn):
                found.add(item.name.value)
            elif isinstance(item, MatchingColumns):
                hits = matching_names(item.pattern, names) if names else []
                found.update(name for name, hit in zip(names, hits, strict=True) if hit)
            elif hasattr(item, "family"):
                of_family = {c.name for c in columns if c.type in FAMILIES[item.family]}
                found.update(of_family if known else set(names) if whole else set())
            else:
                found.update(names)
        return found

    wanted = meant(selector.included, True) - meant(selector.excluded, False)
    return [name for name in names if name in wanted]


def effect_of(statement: Statement, schema: Schema, known: bool) -> Effect:
    """`known`: whether these are the columns of an extract, with their types, and not only names in the recipe."""
    work = _Work(statement, schema, known)
    verb = statement.verb
    if verb in CHANGES_CELLS:
        return work.cells(CHANGES_CELLS[verb])
    special = SPECIAL.get(verb)
    return special(work) if special is not None else Effect(looked_at=work.mentioned())


NEW_NAMES = {
    "split": ("parts", "as", "numbered as", "named"),
    "capture": ("into", "by"),
    "join": ("into",),
    "number rows": ("as",),
    "unpivot": ("into",),
    "map": ("names", "text", "value"),
    "lookup": ("name", "column"),
    "rename": ("columns",),
    "make": ("name",),
    "group": ("name",),
}
"""Clauses with names of new columns, or of those of another file."""


def columns_read(statement: Statement) -> list[str]:
    """Columns that a statement needs by name, in the order of the text: not those that it makes."""
    values = statement.values
    hidden = ("reference", *NEW_NAMES.get(statement.verb, ()))
    read: dict[str, Any] = {key: value for key, value in values.items() if key not in hidden}
    if statement.verb in ("make", "group"):
        read["="] = tuple(item["="] for item in values["name"])
    elif statement.verb == "lookup":
        read["keys"] = tuple(pair["column"] for pair in values["column"])
    elif statement.verb == "rename":
        read["old"] = tuple(item["columns"] for item in values["columns"])
    return columns_mentioned(Statement(statement.verb, read, statement.span))


class _Work:
    def __init__(self, statement: Statement, schema: Schema, known: bool) -> None:
        self.statement, self.schema, self.known = statement, schema, known
        self.names = schema.names
        key = VERBS.declaration(statement.verb).reads_file
        text = statement.text(key) if key else None
        self.file = text.value if text is not None else ""

    def select(self, key: str) -> list[str]:
        return chosen_columns(self.statement.values[key], self.schema.columns, self.known)

    def named(self, *values: Any) -> tuple[str, ...]:
        """Columns that some values mention, and that are there."""
        holder = Statement("make", {str(i): value for i, value in enumerate(values)}, self.statement.span)
        found = [name for name in columns_mentioned(holder) if name in self.names]
        for selector in parts_of(list(values)):
            if isinstance(selector, ColumnSelector):
                found += chosen_columns(selector, self.schema.columns, self.known)
        return tuple(dict.fromkeys(found))

    def mentioned(self, *without: str) -> tuple[str, ...]:
        """Columns that the statement mentions, but in these clauses."""
        values = [
            value for key, value in self.statement.values.items() if key not in without and key != "reference"
        ]
        return self.named(*values)

    def cells(self, key: str) -> Effect:
        further = self.mentioned(key)
        meant = self.select(key)
        if self.known and self.statement.verb in TEXT_ONLY:
            texts = {column.name for column in self.schema.columns if column.type in FAMILIES["text"]}
            meant = [name for name in meant if name in texts]
        return Effect(changed={name: tuple(one for one in further if one != name) for name in meant})

    def new(self, names: Sequence[str], sources: Sequence[str], gone: Sequence[str] = ()) -> Effect:
        """Columns that come from some others; those that are there already are given new values."""
        taken = [name for name in gone if name in self.names]
        own = tuple(sources)
        return Effect(
            made={name: own for name in names if name not in self.names or name in taken},
            changed={name: own for name in names if name in self.names and name not in taken},
            gone=tuple(taken),
            file=self.file,
        )


def _names(value: Any) -> list[str]:
    return [name.value for name in value or ()]


def _split(work: _Work) -> Effect:
    statement = work.statement
    sources = [item["column"].value for item in statement.values["column"]]
    further = work.mentioned("column", "parts", "as", "numbered as")
    if statement.has("rows"):
        named = [statement.get(key, Name) for key in ("as", "numbered as")]
        names = [name.value for name in named if name is not None]
        effect = work.new(names, (*sources, *further), sources if statement.has("in place") and names else ())
        if not statement.has("as"):
            effect.changed.update(dict.fromkeys(sources, further))
        return effect
    gone = sources if statement.has("in place") else []
    if statement.has("parts"):
        names = [part.name.value for part in statement.values["parts"] if _wanted(part.name)]
        return work.new(names, (*sources, *further), gone)
    number = statement.number("number")
    if number is None:
        return Effect(gone=tuple(gone), makes_open=(*sources, *further))
    template = statement.values.get("named")
    effect = Effect(gone=tuple(gone))
    for source in sources:
        for n in range(1, number + 1):
            effect.made[numbered_name(template, source, n)] = (source, *further)
    return effect


def _wanted(name: Name) -> bool:
    """Whether a part of a split, or a group, is to have a column: `_` stands for one that is not wanted."""
    return name.value != "_" or name.span.text.strip().startswith("[")


def _capture(work: _Work) -> Effect:
    statement = work.statement
    source = statement.values["column"].value
    said = statement.names("into")
    names = (
        [one.value for one in said if _wanted(one)] if said else list(group_names(statement.values["by"].re2))
    )
    further = work.mentioned("column", "into", "by")
    return work.new(names, (source, *further), [source] if statement.has("in place") else ())


def _join(work: _Work) -> Effect:
    sources = work.select("columns")
    further = work.mentioned("columns", "into")
    gone = sources if work.statement.has("in place") else ()
    return work.new([work.statement.values["into"].value], (*sources, *further), gone)


def _make(work: _Work) -> Effect:
    further = work.mentioned("name", "after")
    effect = Effect()
    for item in work.statement.values["name"]:
        name = item["name"].value
        sources = tuple(dict.fromkeys((*work.named(item["="]), *further)))
        if name in work.names and (name in sources or work.statement.has("where")):
            effect.changed[name] = tuple(one for one in sources if one != name)
        else:  # also where the old values are all replaced
            effect.made[name] = sources
    return effect


def _lookup(work: _Work) -> Effect:
    statement = work.statement
    keys = [pair["column"].value for pair in statement.values["column"]]
    brought = [item.get("as", item["name"]).value for item in statement.values.get("name", ())]
    where = work.named(statement.values.get("where"))
    effect = work.new(brought, (*keys, *where))
    effect.looked_at = (*keys, *where) if not brought or statement.values.get("matched") else ()
    return effect


def _map(work: _Work) -> Effect:
    name = work.statement.values["column"].value
    further = tuple(one for one in work.mentioned("column", "names", "text") if one != name)
    return Effect(changed={name: further}, file=work.file)


def _number_rows(work: _Work) -> Effect:
    return work.new([work.statement.values["as"].value], work.mentioned("as"))


def _group(work: _Work) -> Effect:
    by = work.select("by") if work.statement.has("by") else []
    made = {
        item["name"].value: tuple(dict.fromkeys((*work.named(item["="]), *by)))
        for item in work.statement.values["name"]
    }
    kept = set(by)
    gone = tuple(name for name in work.names if name not in kept)
    return Effect(made=made, gone=gone, looked_at=tuple(by))


def _pivot(work: _Work) -> Effect:
    statement = work.statement
    own = [name.value for key in ("column", "of") if (name := statement.get(key, Name)) is not None]
    used = work.named(statement.values.get("with"))
    return Effect(gone=tuple(dict.fromkeys((*own, *used))) if used else tuple(own), makes_open=(*own, *used))


def _unpivot(work: _Work) -> Effect:
    sources = work.select("columns")
    names = _names(work.statement.names("into"))
    return Effect(made={names[0]: (), names[-1]: tuple(sources)}, gone=tuple(sources))


def _rename(work: _Work) -> Effect:
    effect = Effect()
    for item in work.statement.values["columns"]:
        selector: ColumnSelector = item["columns"]
        found = chosen_columns(selector, work.schema.columns, work.known)
        style = next((STYLES[key] for key in STYLES if key in item), None)
        for old in found:
            new = style(old) if style is not None else item["to"].value
            if old != new:
                effect.renamed[old] = new
    return effect


def _keep_columns(work: _Work) -> Effect:
    kept = set(work.select("columns"))
    return Effect(gone=tuple(name for name in work.names if name not in kept))


def _drop_columns(work: _Work) -> Effect:
    return Effect(gone=tuple(work.select("columns")))


def _reorder_columns(work: _Work) -> Effect:  # noqa: ARG001
    return Effect()


def _all_rows(key: str) -> Callable[[_Work], Effect]:
    """Verbs that look at the columns of one clause, or at all."""

    def effect(work: _Work) -> Effect:
        named = work.select(key) if work.statement.has(key) else work.names
        return Effect(looked_at=tuple(dict.fromkeys((*named, *work.mentioned(key)))))

    return effect


SPECIAL: Mapping[str, Callable[[_Work], Effect]] = {
    "split": _split,
    "capture": _capture,
    "join": _join,
    "make": _make,
    "lookup": _lookup,
    "map": _map,
    "number rows": _number_rows,
    "group": _group,
    "pivot": _pivot,
    "unpivot": _unpivot,
    "rename": _rename,
    "keep columns": _keep_columns,
    "drop columns": _drop_columns,
    "reorder columns": _reorder_columns,
    "dedupe": _all_rows("by"),
}
