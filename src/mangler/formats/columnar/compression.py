"""How the columns inside of a file are packed."""

from __future__ import annotations

from mangler.language.mistake import enumerate_names, wrong_recipe
from mangler.table.settings import WriteSettings


def codec_for(settings: WriteSettings, format_name: str, codecs: tuple[str, ...], default: str) -> str:
    """The codec that is said, or the default; one that the format does not have is refused."""
    said = settings.compression or default
    if said not in codecs:
        raise wrong_recipe(
            "compression-not-known",
            f"{format_name} does not pack its columns with {said}",
            f"It knows {enumerate_names(codecs)}.",
            settings.spans.get("compression"),
        )
    return said
