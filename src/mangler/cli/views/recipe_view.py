"""A recipe on the screen: verbs stand out, comments and tests step back."""

from __future__ import annotations

import re

from rich.text import Text

COMMENT, VERB, TEXT = "dim", "bold", "green"
TOKEN = re.compile(
    r"""(?P<text>"(?:[^"\\\n]|\\.)*"|'[^'\n]*')|(?P<pattern>(?<=[\s,(])/(?:[^/\\\n]|\\.)+/[a-z]*)|(?P<comment>\#.*)"""
)


def recipe_text(recipe: str) -> Text:
    """The recipe's text with its colours; the characters are those of the recipe."""
    coloured = Text()
    in_test = False
    for line in recipe.splitlines(keepends=True):
        starts = bool(line.strip()) and not line[0].isspace()
        if starts:
            in_test = line.startswith("test")
        if in_test and not starts:
            coloured.append(line, COMMENT)
            continue
        verb = re.match(r"[a-z]+", line) if starts else None
        at = verb.end() if verb else 0
        coloured.append(line[:at], VERB)
        for token in TOKEN.finditer(line, at):
            coloured.append(line[at : token.start()])
            coloured.append(token.group(), COMMENT if token.lastgroup == "comment" else TEXT)
            at = token.end()
        coloured.append(line[at:])
    return coloured
