"""What is refused, and why: the one form of every error that a user meets.

A mistake says what is wrong, where, and what to do. A refusal carries one or more of them and the exit
code; it is the only exception that Mangler's core raises on a user's account.
"""

from __future__ import annotations

import unicodedata
from collections.abc import Iterable, Sequence
from enum import IntEnum

from mangler.language.source import SourceSpan
from mangler.late_dataclass import dataclass


class ExitCode(IntEnum):
    DONE = 0
    ANSWER_IS_NO = 1
    WRONG_FOR_ANY_EXTRACT = 2
    FILE_TROUBLE = 3
    NOT_NOTED = 4
    """Delivered, but the history could not be written."""
    FAULT = 70
    """A fault of Mangler itself."""
    INTERRUPTED = 130
    """128 and the number of the signal that ended the command; this is that of an interrupt."""


WORST_FIRST = (
    ExitCode.FAULT,
    ExitCode.FILE_TROUBLE,
    ExitCode.WRONG_FOR_ANY_EXTRACT,
    ExitCode.ANSWER_IS_NO,
    ExitCode.NOT_NOTED,
)


def worst_of(codes: Iterable[int]) -> int:
    """The exit code of a command over several files: a signal counts first, then what needs a look most."""
    all_codes = set(codes)
    signals = [code for code in all_codes if code > 128]
    return max(signals) if signals else int(next((code for code in WORST_FIRST if code in all_codes), 0))


@dataclass(frozen=True)
class Mistake:
    """`message` says what is wrong, `advice` what to do about it, `span` where it is in a recipe.

    `word` is the kind of the mistake: it stays the same when messages are rewritten, and is one of MISTAKE_WORDS.
    `missing` are the columns that the extract lacks, if that is the mistake: they need not be reported twice.
    """

    word: str
    message: str
    advice: str = ""
    span: SourceSpan | None = None
    missing: tuple[str, ...] = ()

    @property
    def place(self) -> SourceSpan | None:
        """The span, under the name that it had first."""
        return self.span


class Refusal(Exception):  # noqa: N818
    """The work is refused, or has failed, for these mistakes."""

    def __init__(self, mistakes: Iterable[Mistake], code: ExitCode) -> None:
        self.mistakes: tuple[Mistake, ...] = tuple(mistakes)
        self.code = code
        super().__init__()

    def __str__(self) -> str:
        return "\n\n".join(describe(mistake) for mistake in self.mistakes)

    def __reduce__(self) -> tuple[type[Refusal], tuple[Sequence[Mistake], ExitCode]]:
        return Refusal, (self.mistakes, self.code)  # from one process to another


def wrong_recipe(word: str, message: str, advice: str = "", span: SourceSpan | None = None) -> Refusal:
    """A mistake that is there whatever the extract holds."""
    return Refusal([Mistake(word, message, advice, span)], ExitCode.WRONG_FOR_ANY_EXTRACT)


def extract_does_not_fit(
    word: str, message: str, advice: str = "", span: SourceSpan | None = None, missing: tuple[str, ...] = ()
) -> Refusal:
    """The recipe may be right; this extract is not what it was written for."""
    return Refusal([Mistake(word, message, advice, span, missing)], ExitCode.ANSWER_IS_NO)


def file_trouble(word: str, message: str, advice: str = "") -> Refusal:
    """A file cannot be opened, decoded, parsed or written."""
    return Refusal([Mistake(word, message, advice)], ExitCode.FILE_TROUBLE)


def reason(error: OSError) -> str:
    """What the system says of a failure, as part of a sentence."""
    return (error.strerror or str(error)).lower()


def out_of_memory() -> Refusal:
    """What the machine has, or what this process may take of it, is not enough."""
    return file_trouble(
        "out-of-memory",
        "there is not enough memory for this",
        "What was not delivered yet is as it was before. Let the process have more, or give --memory a smaller size:"
        " then rows wait in temporary files instead.",
    )


def describe(mistake: Mistake) -> str:
    """The mistake as it is shown: where and what, the quoted line with a mark under it, the way out."""
    lines = []
    span = mistake.span
    if span is None:
        lines.append(mistake.message)
    else:
        line, column = span.source.locate(span.start)
        lines.append(f"{span.source.name}, line {line}, column {column}: {mistake.message}")
        quoted, mark = quote_line(span)
        lines += [f"    {quoted}", f"    {mark}"]
    if mistake.advice:
        lines += [f"  {part}" for part in mistake.advice.split("\n")]
    return "\n".join(lines)


LONGEST_QUOTED_LINE = 96


def quote_line(span: SourceSpan) -> tuple[str, str]:
    """The line of a place, tabs as spaces and cut to what a screen holds, and the mark that goes under it."""
    line, column = span.source.locate(span.start)
    whole = span.source.line_text(line)
    start = column - 1
    length = max(1, min(span.end - span.start, len(whole) - start))
    cut = 0
    if len(whole) > LONGEST_QUOTED_LINE:
        cut = max(0, min(start - 20, len(whole) - LONGEST_QUOTED_LINE))
        whole = whole[cut : cut + LONGEST_QUOTED_LINE]
    text = "".join(c if c.isprintable() else " " for c in whole)
    if cut:
        text, start = "…" + text, start - cut + 1
    length = min(length, max(1, len(text) - start))
    padding = sum(screen_width(c) for c in text[:start])
    width = sum(screen_width(c) for c in text[start : start + length])
    return text, " " * padding + "^" * max(1, width)


def nearest(word: str, choices: Iterable[str], count: int = 1) -> list[str]:
    """The choices that a hurried writer of `word` may have meant, most likely first."""
    import difflib

    by_folded: dict[str, str] = {}
    for choice in choices:
        by_folded.setdefault(choice.casefold(), choice)
    close = difflib.get_close_matches(word.casefold(), list(by_folded), n=count, cutoff=0.6)
    return [by_folded[folded] for folded in close]


def enumerate_names(names: Sequence[str], most: int = 5) -> str:
    """`kiln, studio, potter and 7 more`."""
    if len(names) <= most + 1:
        return ", ".join(names)
    return f"{', '.join(names[:most])} and {len(names) - most} more"


def screen_width(character: str) -> int:
    """How many columns of a terminal a character takes."""
    if unicodedata.combining(character):
        return 0
    return 2 if unicodedata.east_asian_width(character) in "WF" else 1
