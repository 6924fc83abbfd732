"""The columns' names, as a header gives them or the recipe does."""

from __future__ import annotations

from mangler.formats.delimited.records import field_text
from mangler.language.mistake import Refusal, extract_does_not_fit, file_trouble
from mangler.table.settings import ReadSettings


def column_names(fields: list[bytes], settings: ReadSettings, name: str) -> tuple[str, ...]:
    """The columns' names, as the header or `called` has them."""
    try:
        names = [field_text(field, settings.quote, settings.escape) for field in fields]
    except UnicodeDecodeError:
        raise file_trouble(f"{name}: its header is not UTF-8", "Save the extract as UTF-8.") from None
    if settings.called is not None:
        if len(settings.called) != len(names):
            raise extract_does_not_fit(
                f"{name} has {len(names)} columns, and called names {len(settings.called)}",
                f"Its header: {', '.join(names)}",
            )
        return settings.called
    empty = [number for number, column in enumerate(names, 1) if not column.strip()]
    if empty:
        raise _unusable(name, f"has no name for column {empty[0]}", names)
    seen: dict[str, int] = {}
    for number, column in enumerate(names, 1):
        if column in seen:
            raise _unusable(name, f'has "{column}" twice, as columns {seen[column]} and {number}', names)
        seen[column] = number
    return tuple(names)


def _unusable(name: str, what: str, names: list[str]) -> Refusal:
    """Offers `called` with every column named, ready to be pasted."""
    from mangler.table.select import spell

    fresh: list[str] = []
    for number, column in enumerate(names, 1):
        base = column.strip() or f"column_{number}"
        unique, count = base, 1
        while unique in fresh or (unique != column and unique in names):
            count += 1
            unique = f"{base}_{count}"
        fresh.append(unique)
    called = ", ".join(map(spell, fresh))
    return extract_does_not_fit(
        f"the header of {name} {what}",
        f"Give every column a name in the read statement:\nread called {called}",
    )
