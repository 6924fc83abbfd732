"""What keep characters and drop characters share: classes of characters, and taking the others out."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from mangler.blanks import BLANK_CLASS
from mangler.kernels.arrow import ColumnArray
from mangler.kernels.text.drop_bytes import drop
from mangler.kernels.text.replace import Swap, replace
from mangler.kernels.text.text_view import view
from mangler.language.classes import CharacterClass, Characters
from mangler.language.statement import Statement
from mangler.steps.shared.columnwise import ColumnwiseStep, choose, where
from mangler.table.schema import Schema
from mangler.table.tally import Tally

CLASSES = {
    "letters": r"\p{L}\p{M}",
    "digits": r"\p{Nd}",
    "spaces": BLANK_CLASS,
    "punctuation": r"\p{P}",
    "symbols": r"\p{S}",
    # Cc and Cf without what counts as white space: RE2's classes know no difference of sets.
    "controls": r"\x00-\x08\x0E-\x1F\x7F-\x84\x86-\x9F\x{AD}\x{600}-\x{605}\x{61C}\x{6DD}\x{70F}\x{890}\x{891}\x{8E2}"
    r"\x{180E}\x{200C}-\x{200F}\x{202A}-\x{202E}\x{2061}-\x{2064}\x{2066}-\x{206F}\x{FFF9}-\x{FFFB}\x{110BD}\x{110CD}"
    r"\x{13430}-\x{1343F}\x{1BCA0}-\x{1BCA3}\x{1D173}-\x{1D17A}\x{E0001}\x{E0020}-\x{E007F}",
}
"""Each class as it is in a pattern's square brackets: Unicode's general categories."""
MEANING = (
    "The classes are Unicode's: `letters` with their accents, `digits` of any script, `spaces` as a person would call"
    " them blank, line breaks among them, `punctuation`, `symbols` such as currency signs, and `controls`, characters"
    " without a shape that are no white space. The characters of a text are meant one by one."
)
WITH = "A text in the place of each run that is dropped."


def pattern_of(classes: Sequence[Characters], keeps: bool) -> str:
    """The runs of characters that go."""
    inside = "".join(
        CLASSES[item.word] if isinstance(item, CharacterClass) else "".join(map(_escaped, item.value))
        for item in classes
    )
    return f"[{'^' if keeps else ''}{inside}]+"


def bind_characters(statement: Statement, schema: Schema, usage: str, keeps: bool) -> ColumnwiseStep:
    classes: tuple[Characters, ...] = statement.values["classes"]
    filler = statement.text("with")
    template = (filler.value if filler else "").replace("\\", "\\\\")
    swap = Swap(pattern_of(classes, keeps), template, True)

    def work(column: ColumnArray, tally: Tally) -> ColumnArray:
        if filler is None or not filler.value:
            out, flags = drop(column, swap.match)
            changed = int(np.count_nonzero(flags))
        else:
            out, changed = replace(column, [swap], False, "all")
        if changed:
            tally.counts["cells_changed"] += changed
            now, before = view(out), view(column)
            tally.counts["cells_emptied"] += int(
                np.count_nonzero(now.only_valid((now.lengths == 0) & (before.lengths > 0)))
            )
        return out

    return ColumnwiseStep(
        schema,
        statement,
        choose(statement, schema, usage, "in"),
        work,
        _advise,
        "these cells have no such characters" if not keeps else "these cells have no other characters",
        where(statement, schema, usage),
    )


def _advise(tally: Tally) -> list[str]:
    if not tally.counts["cells_emptied"]:
        return []
    cells = "cell has" if tally.counts["cells_emptied"] == 1 else "cells have"
    return [
        f'{tally.counts["cells_emptied"]:,} {cells} nothing left and became empty text; to null: nullify "" in …'
    ]


def _escaped(character: str) -> str:
    return f"\\x{{{ord(character):X}}}"
