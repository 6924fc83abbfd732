"""Clauses that mean nothing for a format, and are ignored: one recipe reads files of several formats."""

from __future__ import annotations

from mangler.formats.contract import ReadRequest


def remark(verb: str, format_name: str, clauses: tuple[str, ...]) -> str:
    """What is said of such clauses."""
    one = len(clauses) == 1
    said = f"{verb} {' and '.join(clauses)} {'means' if one else 'mean'} nothing for the format {format_name}"
    return f"{said}, and {'was' if one else 'were'} ignored"


def ignored_clauses(request: ReadRequest, format_name: str) -> tuple[str, ...]:
    """The remark about the clauses of `read` that were ignored; none where there are none."""
    return (remark("read", format_name, request.ignored),) if request.ignored else ()
