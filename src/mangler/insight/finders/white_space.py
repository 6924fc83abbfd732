"""White space that nobody sees: at the ends of cells, in runs inside them, and of unusual kinds."""

from __future__ import annotations

import unicodedata

from mangler.insight.columns.column import Column
from mangler.insight.columns.finding import Finding, Found, Kind, Proposal, Stage

NAMES = {"\t": "tab", "\x0b": "vertical tab", "\x0c": "form feed", "\x85": "next line"}


def find_white_space(column: Column) -> Found:
    """One step fixes all of it: `trim`, with `squeeze` where there is any inside."""
    facts, found = column.counted.facts, Found()
    if facts.outer:
        found.findings.append(Finding(Kind.OUTER_SPACE, facts.outer, "white space at the ends of cells"))
    if facts.inner:
        found.findings.append(
            Finding(
                Kind.INNER_SPACE, facts.inner, "runs of white space, or unusual white space, inside cells"
            )
        )
    if facts.unusual:
        message = ", ".join(
            f"{name_of(blank)} in {cells:,} {'cell' if cells == 1 else 'cells'}"
            for blank, cells in facts.unusual.most_common()
        )
        cells = max(facts.unusual.values())
        found.findings.append(Finding(Kind.UNUSUAL_SPACE, cells, message))
    if found.findings:
        kinds = tuple(finding.kind for finding in found.findings)
        squeeze = " squeeze" if facts.inner else ""
        reason = "white space " + " and ".join(
            [f"at the ends of {_cells(facts.outer)}"] * bool(facts.outer)
            + [f"inside {_cells(facts.inner)}"] * bool(facts.inner)
        )
        if facts.unusual:
            reason += f": {found.findings[-1].message}"
        found.proposals.append(Proposal(Stage.TRIM, f"trim {column.spelled}{squeeze}", kinds, reason))
    return found


def _cells(count: int) -> str:
    return f"{count:,} {'cell' if count == 1 else 'cells'}"


def name_of(blank: str) -> str:
    """A kind of white space in words: tab, no-break space, zero width space."""
    name = NAMES.get(blank) or unicodedata.name(blank, f"U+{ord(blank):04X}").lower()
    return "byte order mark" if blank == "\ufeff" else name
