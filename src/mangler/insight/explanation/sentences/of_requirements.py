"""Sentences about requirements: what must be so, and what happens where it is not."""

from __future__ import annotations

from mangler.insight.explanation.words import Words


def columns(words: Words) -> str:
    told = f"The table must have {words.columns()}" + ", and no other columns" * words.has("exactly")
    return told + "." + _else(words, "An extract that is not so")


def that(words: Words) -> str:
    return f"In every row it must be so that {words.said('condition', ' ')}." + _else(
        words, "A row that is not so"
    )


def no_nulls(words: Words) -> str:
    return f"No cell of {words.columns('in')} may be null." + _else(words, "A row that is not so")


def only(words: Words) -> str:
    told = f"The cells of {words.columns('in')} may be only {words.said('matchers', ' ')}, or null."
    return told + words.anycase() + _else(words, "A row that is not so")


def one_row(words: Words) -> str:
    told = f"No two rows may agree in {words.columns('per')}."
    return told + words.anycase() + _else(words, "A row after the first")


def between(words: Words) -> str:
    told = f"There must be {words.said('number', ' ')} to {words.said('and')} rows."
    return told + _else(words, "An extract that is not so")


def overall(words: Words) -> str:
    told = f"For all rows together it must be so that {words.said('condition', ' ')}."
    return told + _else(words, "An extract that is not so")


def _else(words: Words, who: str) -> str:
    ends = {
        "stop": "is reported, and then nothing is delivered",
        "aside": "is set aside",
        "warn": "is delivered, with a warning",
    }
    told = f" {who} {ends[words.value('failures')]}." if words.has("failures") else ""
    return told + f" The reason: {words.said('because')}." * words.has("because")


SENTENCES = {
    "require columns": columns,
    "require that": that,
    "require no nulls": no_nulls,
    "require only": only,
    "require one row": one_row,
    "require between": between,
    "require overall": overall,
}
