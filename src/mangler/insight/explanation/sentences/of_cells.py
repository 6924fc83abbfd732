"""Sentences about steps that change cells where they are."""

from __future__ import annotations

from typing import Any

from mangler.insight.explanation.words import Words


def trim(words: Words) -> str:
    ends = "at the start" if words.has("left") else "at the end" if words.has("right") else "at both ends"
    told = f"Takes white space away {ends} of the cells of {words.columns()}"
    if words.has("squeeze"):
        told += ", and makes one space of each run inside"
        told += ", or one line break if it holds any" * (words.value("squeeze") != "lines")
    return told + "." + words.where()


def replace(words: Words) -> str:
    which = (
        "the first occurrence"
        if words.has("first")
        else "the last occurrence"
        if words.has("last")
        else "every occurrence"
    )
    if words.has("whole"):
        which = f"{which}, where it is the whole cell," if which != "every occurrence" else "whole cells"
    pairs = [(item["matcher"], item["with"]) for item in words.value("matcher")]
    told = "; ".join(f"{old.span.text.strip()} becomes {new.span.text.strip()}" for old, new in pairs[:6])
    told += f"; and {len(pairs) - 6} more" * (len(pairs) > 6)
    return f"Replaces {which} in {words.columns('in')}: {told}." + words.anycase() + words.where()


def nullify(words: Words) -> str:
    told = f"Makes null of cells of {words.columns('in')} that are {words.said('matchers', ' ')},"
    told += " white space around them ignored."
    return told + words.anycase() + words.where()


def keep_characters(words: Words) -> str:
    return (
        f"Keeps only these characters in the cells of {words.columns('in')}: {words.said('classes', ' ')}."
        + _instead(words)
    )


def drop_characters(words: Words) -> str:
    return (
        f"Takes these characters out of the cells of {words.columns('in')}: {words.said('classes', ' ')}."
        + _instead(words)
    )


def _instead(words: Words) -> str:
    return f" {words.said('with')} takes the place of what goes." * words.has("with") + words.where()


def map_values(words: Words) -> str:
    column = words.value("column").value
    if words.has("from"):
        told = f"Looks each value of {column} up in the file {words.said('from')}"
        told += (
            f", by its columns {words.said('names', ' ')}," * words.has("names")
            + " and puts the value that belongs to it in its place."
        )
        told += f" In that file {words.said('nulls')} mean null." * words.has("nulls")
    else:
        pairs = [(item["text"], item["to"]) for item in words.value("text")]
        shown = [f"{old.span.text.strip()} becomes {_spelled(new)}" for old, new in pairs[:6]]
        told = f"Gives the values of {column} others, cell by cell as a whole: {'; '.join(shown)}"
        told += f"; and {len(pairs) - 6} more" * (len(pairs) > 6) + "."
    told += words.near("A value") + words.anycase()
    return told + words.failures("A value that is not listed", "unmatched", "keep") + words.where()


def _spelled(value: Any) -> str:
    span = getattr(value, "span", None)
    return span.text.strip() if span is not None else "null"


def clean_list(words: Words) -> str:
    told = f"Tidies the lists in the cells of {words.columns()}, whose parts end at {words.said('at')}:"
    told += " parts are trimmed"
    told += ", empty ones stay" if words.has("keep empty") else ", empty ones go"
    told += f", parts {words.said('without')} go" * words.has("without")
    told += f", of {words.said('without first')} the first goes" * words.has("without first")
    told += ", parts that are there twice stay once" * words.has("unique")
    told += ", they are sorted" * words.has("sorted")
    told += f", only the first {words.said('first')} stay" * words.has("first")
    told += f"; {words.said('with')} is put between them" * words.has("with")
    return told + "." + words.anycase() + words.where()


def recase(words: Words) -> str:
    kinds = {
        "upper": "capitals",
        "lower": "small letters",
        "title": "words that begin with a capital",
        "sentence": "a text that begins with a capital",
    }
    kind = next(kinds[key] for key in kinds if words.has(key))
    return f"Writes the cells of {words.columns()} in {kind}." + words.where()


def fill(words: Words) -> str:
    if words.has("with"):
        how = f"with {words.said('with')}"
    else:
        how = f"with the nearest value {'above' if words.has('down') else 'below'} them"
    told = f"Fills the nulls of {words.columns()} {how}{words.group()}. Empty texts stay." + words.where()
    return told + (words.failures("A value that cannot be made") if words.has("failures") else "")


CONVERT_CLAUSES = (
    ("language", "the names of months and days are in the language {}"),
    ("century", "years of two digits lie in the hundred years from {} on"),
    ("point", "the mark before the places is {}"),
    ("grouping", "the mark between groups of digits is {}"),
    ("negatives", "numbers below 0 may be written with {}"),
    ("without", "the units {} may be before or after the number"),
    ("true", "true is written {}"),
    ("false", "false is written {}"),
    ("zone", "the clock is that of {}"),
)


def convert(words: Words) -> str:
    kind = " ".join([words.said("to"), words.said("number", " ") if words.has("number") else ""]).strip()
    kind += " places" if words.has("number") else ""
    told = [f"Converts {words.columns()} to {kind}"]
    if words.has("written"):
        told.append(f"written as {words.said('written')}")
    if words.has("written serial"):
        told.append("written as the day numbers of spreadsheets")
    told += [how.format(words.said(key)) for key, how in CONVERT_CLAUSES if words.has(key)]
    return "; ".join(told) + "." + words.anycase() + words.failures("A value that does not fit")


def change(words: Words) -> str:
    told = f"Gives the cells of {words.columns()} new values: {words.said('to')}, where cell is the old one."
    return told + words.where() + words.failures("A value that cannot be made")


SENTENCES = {
    "trim": trim,
    "replace": replace,
    "nullify": nullify,
    "keep characters": keep_characters,
    "drop characters": drop_characters,
    "map": map_values,
    "clean list": clean_list,
    "recase": recase,
    "fill": fill,
    "convert": convert,
    "change": change,
}
