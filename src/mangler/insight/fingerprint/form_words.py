"""A change of the written form in words, with the clause that reads the new one."""

from __future__ import annotations

import re
from collections.abc import Mapping

from mangler.language.spelling import spell_text

LETTERS = r"[^\W\d_]+"


def change_of_forms(
    before: str, now: str, cells: int, earlier: Mapping[str, str], examples: Mapping[str, str]
) -> str:
    """`"04.05.2026" in 60 cells, and they were written as "2026-05-04"; written "%d.%m.%Y" reads it`."""
    example, old = examples.get(now, now), earlier.get(before, before)
    count = "1 cell is" if cells == 1 else f"{cells:,} cells are"
    told = f"{count} written as {spell_text(example)}, and they were as {spell_text(old)}"
    clause = _clause(before, now, example)
    return f"{told}; {clause}" if clause else told


def _clause(before: str, now: str, example: str) -> str:
    """The clause of convert that reads the new form; empty where none does."""
    if "%" in now and "%" in before:
        return f"written {spell_text(now)} reads them"
    if not _is_number(before) or not _is_number(now):
        return ""
    clauses = []
    unit = re.search(LETTERS, example)
    if unit and "a" in now and "a" not in before:
        clauses.append(f"without {spell_text(unit.group())}")
    bare = re.sub(r"[a$ ]", "", now)
    if "," in bare and "." in bare:
        grouping = "," if bare.index(",") < bare.rindex(".") else "."
        clauses.append(f"grouping {spell_text(grouping)}")
    elif "," in bare and bare.count(",") == 1:
        clauses.append('point ","')
    elif bare.count(",") > 1:
        clauses.append('grouping ","')
    return f"{' '.join(clauses)} reads them" if clauses else ""


def _is_number(form: str) -> bool:
    return bool(re.fullmatch(r"[a$]{0,2} ?9(?:[.,' ]9)*(?: ?[a$%])?", form))
