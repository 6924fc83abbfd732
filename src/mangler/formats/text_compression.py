"""How a file of text is packed as a whole."""

from __future__ import annotations

from mangler.language.mistake import enumerate_names, wrong_recipe
from mangler.table.settings import WriteSettings

WHOLE_FILE = ("gzip", "bzip2", "xz", "zstd", "zip", "none")


def text_compression(settings: WriteSettings) -> str | None:
    """What `write compression` says; None: the output's name says it."""
    said = settings.compression
    if said is not None and said not in WHOLE_FILE:
        raise wrong_recipe(
            "compression-not-known",
            f"a file of text is not packed with {said}",
            f"Write one of {enumerate_names(WHOLE_FILE)}.",
            settings.spans.get("compression"),
        )
    return said
