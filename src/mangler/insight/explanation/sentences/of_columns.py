"""Sentences about steps that make columns, name them, or take them away."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from mangler.insight.explanation.words import Words, listed


def split(words: Words) -> str:
    names = [item["column"].value for item in words.value("column")]
    column = listed(names)
    which = "the first " if words.has("first") else "the last " if words.has("last") else ""
    told = f"Splits the cells of {column} at {which}{words.said('delimiters', ' ')}"
    if words.has("rows"):
        told += " into rows, one for each part; the other columns repeat"
        told += f". The parts go to the new column {words.said('as')}" * words.has("as")
        told += f". Their numbers go to {words.said('numbered as')}" * words.has("numbered as")
    elif words.has("parts"):
        told += f" into {words.said('parts', ' ')}"
    else:
        told += (
            f" into {words.said('number', ' ')} columns"
            if words.has("number")
            else " into as many columns as the longest needs"
        )
        told += f" named {words.said('named')}" * words.has("named")
    told += f". They take the place of {column}" * words.has("in place")
    told += "." + words.anycase()
    told += " Delimiters inside double quotes do not count." * words.has("quoted")
    told += " White space around parts stays." * words.has("untrimmed")
    told += " Empty parts stay." * words.has("keep empty") + " Empty parts go." * words.has("drop empty")
    told += f" A part that is absent becomes {words.said('absent')}." * words.has("absent")
    if not words.has("rows"):
        told += _ending(words, "too few", "A column without a part", "null") if words.has("parts") else ""
        told += _ending(words, "too many", "What is left over", "stop") if words.has("too many") else ""
    return told + words.where()


def _ending(words: Words, key: str, begins: str, default: str) -> str:
    said = words.said(key) if words.has(key) else default
    known = {
        "stop": "is reported, and then nothing is delivered",
        "aside": "sets its row aside",
        "null": "becomes null",
        "unsplit": "stays together in the last column",
        "cut": "is left out",
    }
    return f" {begins} {known.get(said, f'becomes {said}')}."


def capture(words: Words) -> str:
    column = words.value("column").value
    told = f"Takes what the groups of {words.said('by')} find in {column} into new columns"
    told += f", {words.said('into')}" * words.has("into")
    told += f", in the place of {column}" * words.has("in place")
    default = "stop" if words.has("in place") else "null"
    return told + "." + words.failures("A cell in which it is not found", default=default) + words.where()


def join(words: Words) -> str:
    told = f"Joins {words.columns()} with {words.said('with')} into {words.value('into').value}"
    told += ", in their place" * words.has("in place") + "."
    if words.has("nulls"):
        how = {"skip": " Nulls are left out.", "null": " Null in any of them gives null."}
        told += how.get(str(words.value("nulls")), f" Each null becomes {words.said('value')}.")
    else:
        told += " Nulls are left out."
    return told + " Blank texts are left out too." * words.has("blanks skip") + words.where()


def make(words: Words) -> str:
    told = f"Makes {made(words.value('name'))}{words.group()}{words.order()}"
    if words.has("after"):
        told += f", right after {words.said('after')}"
    told += ", before all other columns" * words.has("first") + ", after all other columns" * words.has(
        "last"
    )
    return told + "." + words.where() + words.failures("A value that cannot be made")


def made(items: Sequence[Any]) -> str:
    """`a = …; b = …` as the recipe says it."""
    told = [f"{item['name'].value} = {source_text(item['='])}" for item in items[:6]]
    return "; ".join(told) + f"; and {len(items) - 6} more" * (len(items) > 6)


def source_text(expression: Any) -> str:
    return " ".join(str(expression.span.text).split())


def lookup(words: Words) -> str:
    told = f"Looks each row up in {words.said('text', ' ')} by {words.said('column', ' ')}"
    brings = words.has("bring")
    told += f" and brings {words.said('name', ' ')} from there" if brings else " and checks that it is there"
    told += f". In that file {words.said('nulls')} mean null" * words.has("nulls")
    told += "." + words.near("A key")
    matched = words.value("matched")
    found = {"drop": "are dropped", "aside": "are set aside", "keep": "stay"}
    if matched is not None:
        told += f" Rows that are found {found[matched]}."
    ends = {
        "null": "has nulls there" if brings else "passes",
        "aside": "is set aside",
        "stop": "is reported, and then nothing is delivered",
    }
    if words.has("unmatched") or (brings and matched in (None, "keep")):
        told += (
            f" A row that is not found {ends[words.value('unmatched') or ('null' if brings else 'stop')]}."
        )
    if words.has("several"):
        several = {"stop": "stop the run", "first": "give the first of them", "all": "give a row each"}
        told += f" Several matches {several[words.value('several')]}."
    return told + words.anycase() + words.where()


def number_rows(words: Words) -> str:
    start = f" from {words.said('from')} on" if words.has("from") else ""
    return (
        f"Numbers the rows{start} in the new column {words.value('as').value}{words.group()}{words.order()}."
    )


def rename(words: Words) -> str:
    styles = {
        "snake": "small letters with _ between words",
        "trim": "their names without white space around them",
        "lower": "small letters",
        "upper": "capitals",
    }
    parts = []
    for item in words.value("columns"):
        old = source_text(item["columns"]) if not isinstance(item["columns"], tuple) else ""
        style = next((styles[key] for key in styles if key in item), None)
        parts.append(f"{old} in {style}" if style else f"{old} as {item['to'].value}")
    return f"Names columns anew: {'; '.join(parts)}."


def keep_columns(words: Words) -> str:
    return f"Keeps {words.columns()}, and drops all other columns."


def drop_columns(words: Words) -> str:
    return f"Drops {words.columns()}."


def reorder_columns(words: Words) -> str:
    order = words.said("columns", " ")
    return f"Puts the columns in this order: {order}{', where * is all others' * ('*' in order)}."


SENTENCES = {
    "split": split,
    "capture": capture,
    "join": join,
    "make": make,
    "lookup": lookup,
    "number rows": number_rows,
    "rename": rename,
    "keep columns": keep_columns,
    "drop columns": drop_columns,
    "reorder columns": reorder_columns,
}
