"""A page for each kind of mistake: what it means, an example, how to put it right."""

from __future__ import annotations

from mangler.manual.mistakes import expressions, extracts, running, statements, values
from mangler.manual.mistakes.kind import Kind as Kind

KINDS: dict[str, Kind] = {
    **statements.KINDS,
    **values.KINDS,
    **expressions.KINDS,
    **extracts.KINDS,
    **running.KINDS,
}


def mistakes_text() -> str:
    """Every kind of mistake in a line, in the order of the alphabet."""
    head = (
        "A mistake is shown with its place, and with the word of its kind in brackets. That word stays the same when"
        " messages are rewritten; `--json` gives it as `word`. `mangler manual WORD` shows an example, and how to put"
        " it right.\n\n"
    )
    return head + "".join(f"- `{word}`: {KINDS[word].meaning}\n" for word in sorted(KINDS))
