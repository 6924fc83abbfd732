"""A profile as JSON, for machines."""

from __future__ import annotations

from typing import Any

from mangler.insight.columns.finding import Finding, Proposal, TableFinding
from mangler.insight.profile.profile import ColumnProfile, Profile
from mangler.table.read_words import read_statement


def to_json(profile: Profile) -> dict[str, Any]:
    """The documented shape of `mangler profile --json`."""
    return {
        "extract": profile.extract,
        "found_out": profile.detected,
        "read_as": read_statement(profile.read_as) if profile.layout_found else None,
        "rows": profile.rows,
        "unfit_rows": profile.unfit,
        "unfit": [{"row": row.row, "reason": row.reason} for row in profile.unfit_examples],
        "table": [_table_finding(finding) for finding in profile.table],
        "columns": [_column(column) for column in profile.columns],
    }


def _column(column: ColumnProfile) -> dict[str, Any]:
    facts = column.facts
    return {
        "name": column.name,
        "type": column.stored,
        "looks_like": column.looks,
        "cells": facts.cells,
        "nulls": facts.nulls,
        "empties": facts.empties,
        "blanks": facts.blanks,
        "distinct": column.distinct,
        "distinct_is_exact": column.distinct_is_exact,
        "frequent": [{"value": value, "cells": cells} for value, cells in column.frequent],
        "shortest": facts.shortest[0] if facts.shortest else None,
        "longest": facts.longest[0] if facts.longest else None,
        "space_outside": facts.outer,
        "space_inside": facts.inner,
        "space_unusual": {f"U+{ord(blank):04X}": cells for blank, cells in sorted(facts.unusual.items())},
        "line_breaks": facts.broken_lines,
        "parts": [
            {
                "mark": mark,
                "cells": sum(counts.values()) - counts[1],
                "least": least,
                "usual": usual,
                "most": most,
            }
            for mark, (counts, least, usual, most) in column.parts.items()
        ],
        "numbers": _numbers(column),
        "dates": _dates(column),
        "findings": [_finding(finding) for finding in column.findings],
        "steps": [_step(proposal) for proposal in column.proposals],
    }


def _numbers(column: ColumnProfile) -> dict[str, Any] | None:
    if column.numbers is None:
        return None
    numbers = column.numbers.numbers
    return {
        "least": numbers.least,
        "most": numbers.most,
        "mean": numbers.mean,
        "median": numbers.median,
        "far_out": numbers.far_out.values.tolist(),
        "histogram": list(numbers.histogram),
        "point": column.numbers.form.point,
        "grouping": column.numbers.form.grouping,
        "units": list(column.numbers.units),
    }


def _dates(column: ColumnProfile) -> dict[str, Any] | None:
    if column.dates is None:
        return None
    return {"written": list(column.dates.written), "first": column.dates.first, "last": column.dates.last}


def _finding(finding: Finding) -> dict[str, Any]:
    return {
        "kind": str(finding.kind),
        "cells": finding.cells,
        "estimated": finding.about,
        "told": finding.message,
        "question": finding.question or None,
        "examples": list(finding.examples),
        "is_fault": finding.is_fault,
    }


def _table_finding(finding: TableFinding) -> dict[str, Any]:
    return {
        "kind": str(finding.kind),
        "columns": list(finding.columns),
        "rows": finding.rows or None,
        "told": finding.message,
        "question": finding.question or None,
        "step": finding.step or None,
    }


def _step(proposal: Proposal) -> dict[str, Any]:
    return {
        "step": proposal.step,
        "sure": proposal.sure,
        "cells": proposal.cells,
        "failing": proposal.failing,
        "estimated": proposal.about,
        "reason": proposal.reason,
        "question": proposal.question or None,
        "mends": [str(kind) for kind in proposal.mends],
    }
