"""Sentences about statements that are no steps: how to read and write, what a recipe is made of, its tests."""

from __future__ import annotations

from mangler.insight.explanation.words import Words

READ = (
    ("format", "as {}"),
    ("sheet", "from the sheet {}"),
    ("table", "from the table {}"),
    ("query", "by the query {}"),
    ("query from", "by the query in the file {}"),
    ("newer than", "only rows whose {} is higher than in those delivered before"),
    ("overlap", "with an overlap of {} values"),
    ("delimiter", "with the delimiter {}"),
    ("widths", "in columns of these widths: {}"),
    ("quote", "with the quote {}"),
    ("encoding", "in the encoding {}"),
    ("header row", "with the header in row {}"),
    ("header rows", "with a header of {} rows"),
    ("called", "with the columns called {}"),
    ("skip", "without the first {} lines"),
    ("skip last", "without the last {} lines"),
    ("escape", "with the escape character {}"),
    ("nulls", "where {} mean null"),
    ("comment", "without lines that begin with {}"),
)
WRITE = (
    ("format", "as {}"),
    ("compression", "packed with {}"),
    ("delimiter", "with the delimiter {}"),
    ("quotes", "with {} quotes"),
    ("widths", "in columns of these widths: {}"),
    ("nulls", "with {} for null"),
    ("encoding", "in the encoding {}"),
    ("line ends", "with {} at the ends of lines"),
    ("by", "a file for each value of {}"),
    ("named", "with files named {}"),
    ("files of", "in files of {}"),
    ("table", "into the table {}"),
)
FLAGS = (
    ("merged repeat", "where merged cells repeat their value"),
    ("header absent", "without a header"),
    ("names completed", "with names for columns that have none"),
    ("in runs", "where a run of delimiters is one"),
    ("guard formulas", "with texts guarded that a spreadsheet would run"),
)
RAGGED = {
    "aside": "rows that do not fit the header are set aside",
    "stop": "a row that does not fit the header stops the run",
    "pad": "short rows are filled up with nulls",
}


def read(words: Words) -> str:
    parts = _parts(words, READ)
    if words.has("ragged"):
        parts.append(RAGGED[str(words.value("ragged"))])
    return f"Reads the extract {', '.join(parts)}." if parts else "Reads the extract as it is detected."


def write(words: Words) -> str:
    parts = _parts(words, WRITE)
    parts += [f"the table is {how}d" for how in ("create", "replace") if words.has(how)]
    parts += ["the rows go behind its own"] * words.has("append")
    return f"Writes the table {', '.join(parts)}." if parts else "Writes the table as the output's name says."


def _parts(words: Words, clauses: tuple[tuple[str, str], ...]) -> list[str]:
    told = [how.format(words.said(key)) for key, how in clauses if words.has(key)]
    return told + [how for key, how in FLAGS if words.has(key)]


def tolerate(words: Words) -> str:
    return f"At most {_rest(words)} may be set aside; with more nothing is delivered."


def parameter(words: Words) -> str:
    if words.has("from environment"):
        return f"The parameter {_name(words)} comes from the environment, {words.said('from environment')}."
    return f"The parameter {_rest(words)}, if no other value is given."


def define(words: Words) -> str:
    return f"Defines the function {_rest(words)}."


def import_as(words: Words) -> str:
    return f"Brings in functions of another recipe: {_rest(words)}."


def include(words: Words) -> str:
    return f"Has the steps of {_rest(words)} in this place."


def mangler(words: Words) -> str:
    title = words.value("text")
    return f"A recipe: {title.value}." if title is not None else "A recipe."


def test(words: Words) -> str:
    title = words.value("text")
    return "Proves the step above with an example" + (f": {title.value}." if title is not None else ".")


def _name(words: Words) -> str:
    return _rest(words).split()[0]


def _rest(words: Words) -> str:
    text = " ".join(words.statement.span.text.split())
    return text.removeprefix(words.statement.verb).strip()


SENTENCES = {
    "mangler": mangler,
    "read": read,
    "write": write,
    "tolerate": tolerate,
    "parameter": parameter,
    "define": define,
    "import": import_as,
    "include": include,
    "test": test,
}
