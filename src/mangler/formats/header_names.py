"""The columns' names, as a header gives them or the recipe does."""

from __future__ import annotations

from collections.abc import Sequence

from mangler.language.mistake import Refusal, enumerate_names, extract_does_not_fit
from mangler.table.settings import ReadSettings

MOST_COLUMNS = 100_000
MOST_LISTED = 10
"""Names that a message lists."""
MOST_OFFERED = 40
"""Columns whose names are offered all, as a statement that can be pasted."""


def column_names(names: Sequence[str], settings: ReadSettings, name: str) -> tuple[str, ...]:
    """The columns' names, as the header or `called` has them. Two columns with one name are refused."""
    refuse_too_many(len(names), name)
    if settings.called is not None:
        is_short = settings.ragged == "pad" and len(names) < len(settings.called)
        if len(settings.called) != len(names) and not is_short:
            raise extract_does_not_fit(
                "wrong-number-of-names",
                f"{name} has {len(names)} columns, and called names {len(settings.called)}",
                f"Its header: {enumerate_names(names, MOST_LISTED)}",
            )
        return settings.called
    if settings.names_completed:
        return tuple(unique_names(names))
    empty = [number for number, column in enumerate(names, 1) if not column.strip()]
    if empty:
        raise _unusable(name, f"has no name for column {empty[0]}", names)
    seen: dict[str, int] = {}
    for number, column in enumerate(names, 1):
        if column in seen:
            raise _unusable(name, f'has "{column}" twice, as columns {seen[column]} and {number}', names)
        seen[column] = number
    return tuple(names)


def refuse_too_many(columns: int, name: str) -> None:
    """Refuses a table so wide that its columns would take all memory."""
    if columns > MOST_COLUMNS:
        raise extract_does_not_fit(
            "too-many-columns",
            f"{name} has {columns:,} columns, and at most {MOST_COLUMNS:,} are read",
            "Is it the right file? In text, does the header end where it should? Name the delimiter in read.",
        )


def unique_names(names: Sequence[str]) -> list[str]:
    """The names, repeated ones with a number behind them; `column_3` for one that is blank."""
    taken, fresh = set(names), set[str]()
    last: dict[str, int] = {}
    out = []
    for number, column in enumerate(names, 1):
        base = column if column.strip() else f"column_{number}"
        unique = base
        while unique in fresh or (unique != column and unique in taken):
            last[base] = last.get(base, 1) + 1
            unique = f"{base}_{last[base]}"
        fresh.add(unique)
        out.append(unique)
    return out


def _unusable(name: str, what: str, names: Sequence[str]) -> Refusal:
    """Offers `called` with every column named, ready to be pasted."""
    from mangler.table.select import quote_name

    fresh = unique_names(names)
    called = ", ".join(map(quote_name, fresh[:MOST_OFFERED]))
    if len(fresh) > MOST_OFFERED:
        called = ", ".join(map(quote_name, fresh[:MOST_LISTED])) + f", … ({len(fresh):,} names)"
    return extract_does_not_fit(
        "column-names",
        f"the header of {name} {what}",
        "Have names given by their place: read names completed\n"
        f"Or give every column a name in the read statement:\nread called {called}",
    )
