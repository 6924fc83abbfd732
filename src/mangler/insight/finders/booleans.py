"""Texts that say yes or no."""

from __future__ import annotations

from mangler.insight.columns.column import Column
from mangler.insight.columns.finding import Finding, Found, Kind, Proposal, Stage
from mangler.language.spelling import spell_text

PAIRS = (
    ("true", "false"),
    ("yes", "no"),
    ("y", "n"),
    ("t", "f"),
    ("on", "off"),
    ("ja", "nein"),
    ("j", "n"),
    ("oui", "non"),
    ("o", "n"),
    ("sí", "no"),
    ("si", "no"),
    ("s", "n"),
    ("sì", "no"),
    ("sim", "não"),
    ("tak", "nie"),
    ("ano", "ne"),
    ("1", "0"),
)
"""Words for true and for false, without letter case, by language."""
TRUE = frozenset(true for true, _ in PAIRS)
FALSE = frozenset(false for _, false in PAIRS)
BOOLEAN_WORDS = TRUE | FALSE
LEAST_CELLS = 3


def find_booleans(column: Column) -> Found:
    """Every value must be a word of a pair, and of one pair both must be there."""
    said, found = column.said, Found()
    if said.cells < LEAST_CELLS or not 2 <= len(said) <= 12:
        return found
    words = {text.upper().lower() for text in said.values}
    if not words <= BOOLEAN_WORDS or not any(true in words and false in words for true, false in PAIRS):
        return found
    if words & TRUE & FALSE:
        return found
    message = f"{', '.join(text for text, _ in said.most(4))}: true and false as words"
    question = ""
    if words == {"0", "1"}:  # one question is asked for all such columns of a table
        found.findings.append(Finding(Kind.BOOLEANS, said.cells, "only 0 and 1", is_fault=False))
        return found
    if words & {"t", "f", "s", "o", "j"} and len(words) == 2 and words != {"y", "n"}:
        question = "Do these letters mean true and false?"
    found.findings.append(Finding(Kind.BOOLEANS, said.cells, message, question, is_fault=False))
    clauses = ""
    if words != {"true", "false"}:
        clauses = f" true {_texts(words & TRUE)} false {_texts(words & FALSE)}"
        clauses += " anycase" if any(word.isalpha() for word in words) else ""
    step = f"convert {column.spelled} to boolean{clauses}"
    found.proposals.append(
        Proposal(Stage.CONVERT, step, (Kind.BOOLEANS,), "every value is true or false", question)
    )
    return found


def _texts(words: set[str]) -> str:
    return ", ".join(spell_text(word) for word in sorted(words))
