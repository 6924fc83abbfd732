"""Sentences about steps that choose, order, bring together or make rows."""

from __future__ import annotations

from mangler.insight.explanation.sentences.of_columns import made
from mangler.insight.explanation.words import Words


def keep_rows(words: Words) -> str:
    return f"Keeps the rows where {words.said('where')}, and drops all others." + _unknown(words)


def drop_rows(words: Words) -> str:
    return f"Drops the rows where {words.said('where')}." + _unknown(words)


def set_aside_rows(words: Words) -> str:
    return f"Sets the rows aside where {words.said('where')}, because {words.said('because')}." + _unknown(
        words
    )


def _unknown(words: Words) -> str:
    return words.failures("A row for which that cannot be known") if words.has("failures") else ""


def keep_first(words: Words) -> str:
    return _some(words, "first")


def keep_last(words: Words) -> str:
    return _some(words, "last")


def _some(words: Words, which: str) -> str:
    number = words.said("number", " ")
    rows = "row" if number == "1" else f"{number} rows"
    among = words.group().replace(" over all rows", " of all") or " of the table"
    return f"Keeps the {which} {rows}{among}{words.order()}, and drops all others."


def sort(words: Words) -> str:
    told = f"Sorts the rows by {words.said('column', ' ')}, nulls {'first' if words.has('nulls first') else 'last'}."
    return told + words.anycase()


def dedupe(words: Words) -> str:
    alike = f"agree in {words.columns('by')}" if words.has("by") else "are alike in all columns"
    which = {"first": "the first", "last": "the last", "fullest": "the one with the fewest nulls"}
    kept = which[str(words.value("leaving") or "first")]
    return f"Of rows that {alike} keeps {kept}{words.order()}." + words.anycase()


def group(words: Words) -> str:
    alike = f"rows that agree in {words.columns('by')}" if words.has("by") else "all rows"
    told = f"Makes one row of {alike}, with {made(words.value('name'))}. All other columns go."
    return told + words.anycase() + words.failures("A value that cannot be made")


def pivot(words: Words) -> str:
    column = words.value("column").value
    told = f"Makes a column of each different value of {column}"
    told += f", which holds the value of {words.said('of')}" * words.has("of")
    told += f"; several values become {words.said('with')}" * words.has("with")
    told += ". Rows that agree in all other columns become one."
    return told + words.failures(
        "A cell with several values" if not words.has("with") else "A value that cannot be made"
    )


def unpivot(words: Words) -> str:
    names = [name.value for name in words.value("into")]
    told = f"Makes a row of each of {words.columns()}: its name goes to {names[0]}, its value to {names[-1]}."
    return told + " Nulls make no row." * words.has("drop nulls")


def repeat_rows(words: Words) -> str:
    told = f"Repeats each row as often as {words.value('by').value} says."
    return told + words.failures("A number of rows that is none")


SENTENCES = {
    "keep rows": keep_rows,
    "drop rows": drop_rows,
    "set aside rows": set_aside_rows,
    "keep first": keep_first,
    "keep last": keep_last,
    "sort": sort,
    "dedupe": dedupe,
    "group": group,
    "pivot": pivot,
    "unpivot": unpivot,
    "repeat rows": repeat_rows,
}
