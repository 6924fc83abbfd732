"""What is said of rows that the format of an output has no place for."""

from __future__ import annotations

from mangler.language.mistake import Refusal, extract_does_not_fit


def too_many_rows(most: int) -> Refusal:
    """Rows that a sheet has no place for."""
    return extract_does_not_fit(
        "too-many-rows",
        f"more than {most:,} rows are to be written, and a sheet has no place for them",
        f"Write another format, such as parquet or text, or several files: write files of {most} rows.",
    )
