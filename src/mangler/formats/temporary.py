"""What is said where a temporary file cannot be had."""

from __future__ import annotations

import tempfile

from mangler.language.mistake import Refusal, file_trouble, reason

ADVICE = "Let TMPDIR name a folder with room."


def not_made(error: OSError) -> Refusal:
    where = tempfile.gettempdir()
    return file_trouble(
        "no-temporary-file", f"no temporary file can be made in {where}: {reason(error)}", ADVICE
    )


def not_filled(error: OSError) -> Refusal:
    where = tempfile.gettempdir()
    return file_trouble(
        "no-temporary-file", f"a temporary file in {where} cannot be written: {reason(error)}", ADVICE
    )
