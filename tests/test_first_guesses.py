"""What people type first leads to the right line, nine times of ten."""

from __future__ import annotations

import csv
from pathlib import Path

from mangler.engine.plan.plan import bind_steps
from mangler.language.mistake import Refusal
from mangler.recipes.command_line_steps import read_steps
from mangler.table.schema import Column, Schema, ValueType

GUESSES = Path(__file__).with_name("first_guesses.csv")
COLUMNS = Schema(
    (
        *(Column(name) for name in ("kiln", "studio", "potter", "notes", "glazes")),
        Column("made", ValueType.INTEGER),
        Column("fired_on", ValueType.DATE),
    )
)
SHARE = 0.9


def answer_to(typed: str) -> str:
    """All that is said to a statement; nothing where it is right."""
    try:
        steps = read_steps([typed])
    except Refusal as refusal:
        return str(refusal)
    bound = bind_steps(steps, COLUMNS)
    return str(Refusal(bound.mistakes, max(bound.codes))) if bound.mistakes else ""


def test_nine_of_ten_lead_to_the_right_line() -> None:
    with GUESSES.open(encoding="utf-8", newline="") as file:
        guesses = [
            (row["typed"], row["said"]) for row in csv.DictReader(file, delimiter=";", quoting=csv.QUOTE_NONE)
        ]
    missed = [f"{typed}  ->  {answer_to(typed)}" for typed, said in guesses if said not in answer_to(typed)]
    assert len(missed) <= len(guesses) * (1 - SHARE), "\n".join(missed)
