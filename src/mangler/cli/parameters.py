"""`--set NAME=VALUE`."""

from __future__ import annotations

from collections.abc import Sequence

from mangler.language.mistake import wrong_recipe


def named_values(settings: Sequence[str] | None) -> dict[str, str]:
    """The values by their names; what has no = is refused, and so is a name that stands twice."""
    values: dict[str, str] = {}
    for setting in settings or ():
        name, mark, value = setting.partition("=")
        name = name.strip()
        if not mark or not name:
            raise wrong_recipe(f"--set {setting} gives no value", "Write --set NAME=VALUE.")
        if name in values:
            raise wrong_recipe(f"--set {name} stands twice", "Give each parameter one value.")
        values[name] = value
    return values
