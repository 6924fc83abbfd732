"""The canonical layout of a recipe: one statement a line, clauses in the reference's order, comments kept."""

from __future__ import annotations

from collections.abc import Sequence

from mangler.language.cursor import Token
from mangler.language.items import Comments
from mangler.language.recipe import ParsedRecipe
from mangler.language.statement import Statement, Stretch
from mangler.language.tables import BECOMES, SmallTable, table_lines

WIDEST_LINE = 100
INDENT = "  "


def format_recipe(recipe: ParsedRecipe) -> str:
    """The recipe's text in the canonical layout. Formatting a second time changes nothing."""
    out: list[str] = []
    for item in recipe.items:
        if item.blank_before and out:
            out.append("")
        if isinstance(item, Comments):
            out += item.lines
        else:
            out.append(format_statement(item.statement))
    return "\n".join(out) + "\n" if out else ""


def format_statement(statement: Statement) -> str:
    """One line; or, where that is too wide or has comments inside, one line per clause."""
    stretches = sorted(statement.stretches, key=lambda stretch: stretch.rank)
    pieces = [text for stretch in stretches if (text := join_tokens(stretch.tokens))]
    line = " ".join(pieces)
    given = statement.get("given", SmallTable)
    if given is not None:
        return "\n".join([_with_comments(line, stretches), *_body(statement, given)])
    if len(line) <= WIDEST_LINE and not any(stretch.comments for stretch in stretches):
        return line
    return "\n".join(_one_line_a_clause(stretches))


def _with_comments(line: str, stretches: Sequence[Stretch]) -> str:
    """The one line that a head takes, with what comment is at its end."""
    return "  ".join([line, *(comment.text for stretch in stretches for comment in stretch.comments)])


def _body(statement: Statement, given: SmallTable) -> list[str]:
    expected = statement.get("becomes", SmallTable)
    assert expected is not None
    return [INDENT + line for line in (*table_lines(given), BECOMES, *table_lines(expected))]


def join_tokens(tokens: Sequence[Token]) -> str:
    text = ""
    for token in tokens:
        text += token.spelling if token.glued or not text else f" {token.spelling}"
    return text


def _one_line_a_clause(stretches: list[Stretch]) -> list[str]:
    """The verb and its required parts share a line as far as they fit; every clause has its own."""
    lines: list[str] = []
    closed = True
    for stretch in stretches:
        text = join_tokens(stretch.tokens)
        if text:
            fits = not closed and len(lines[-1]) + 1 + len(text) <= WIDEST_LINE
            if fits and not stretch.is_clause:
                lines[-1] += f" {text}"
            else:
                lines += _wrap(stretch.tokens, INDENT if lines else "")
            closed = False
        for comment in stretch.comments:
            if comment.own_line or closed:
                lines.append(INDENT + comment.text)
            else:
                lines[-1] += f"  {comment.text}"
            closed = True
    return lines


def _wrap(tokens: Sequence[Token], indent: str) -> list[str]:
    """A clause that is still too wide is broken after its commas."""
    lines = [indent]
    for token in tokens:
        line = lines[-1]
        gap = "" if token.glued or not line.strip() else " "
        if len(line) + len(gap) + len(token.spelling) > WIDEST_LINE and line.endswith(","):
            lines.append(indent + INDENT + token.spelling)
        else:
            lines[-1] = line + gap + token.spelling
    return lines


def one_line(statement: Statement) -> str:
    """The statement on one line without its comments, however wide."""
    stretches = sorted(statement.stretches, key=lambda stretch: stretch.rank)
    return " ".join(text for stretch in stretches if (text := join_tokens(stretch.tokens)))
