"""Random recipes: the reference's own examples on other columns, with other values, and with their text damaged."""

from __future__ import annotations

import re
from functools import cache
from random import Random

from mangler.language.spelling import spell_text
from mangler.manual.pages import all_functions
from mangler.steps import VERBS
from mangler.table.select import quote_name

CLAUSES = (
    "anycase", "whole", "where length(a) > 2", "where a is null or a matches /x/", "failures aside", "failures null",
    "failures keep", 'failures "?"', "in place", "too few aside", "too many unsplit", "keep empty", "unique",
    "nulls first", "descending", "unmatched aside", "several all", "squeeze lines", "first", "last",
)  # fmt: skip
WORDS = (
    "0", "-1", "3", "99999999999999999999", "1.5", "null", "true", "a", "*", "* except a", '""', "/x*/", "/(a)|b+?/",
    "'{'", '"{a}{b?}"', "(", ")", "[", "]", ",", "=", "where", "with", "to", "if a then b else c", "not", "/\\Q(\\E/",
    "#", "\n", "\n  ", "[]", "[a]]b]", "1e5", "_", "é", "\u00a0", "\t", "/\\C/", "..", '"\\u{1B}"',
)  # fmt: skip
NAMES = re.compile(r"\b[a-z]+_?[a-z]*\b")


@cache
def examples() -> tuple[str, ...]:
    """Every example statement of the reference."""
    found = [one.statement for name in VERBS.names() for one in VERBS.declaration(name).examples]
    found += [f"make v = {name}(a, b)" for name in all_functions()] + [
        f"make v = {name}(a)" for name in all_functions()
    ]
    return tuple(found)


def recipe(random: Random, names: list[str]) -> str:
    """A recipe of a few statements for columns of these names."""
    statements = [_statement(random, names) for _ in range(random.choice((1, 1, 2, 3, 6)))]
    text = "\n".join(['mangler 1 "attack"', *statements])
    for _ in range(random.choice((0, 0, 0, 1, 3))):
        text = _damaged(random, text)
    return text + "\n"


def _statement(random: Random, names: list[str]) -> str:
    text = random.choice(examples())
    words = set(NAMES.findall(re.sub(r'"[^"]*"|\'[^\']*\'|/[^/]*/', "", text))) - keywords()
    for word in words:
        if names and random.random() < 0.9:
            text = re.sub(rf"\b{word}\b", lambda _: quote_name(random.choice(names)), text)
    if random.random() < 0.3:
        text += " " + _for_columns(random, random.choice(CLAUSES), names)
    if random.random() < 0.2:
        text = re.sub(
            r'"[^"]*"',
            lambda _: spell_text(random.choice(("", "a", " ", ";", "\t", "x" * 50, "é", "{"))),
            text,
        )
    return text


def _for_columns(random: Random, clause: str, names: list[str]) -> str:
    return re.sub(r"\ba\b", lambda _: quote_name(random.choice(names)) if names else "a", clause)


@cache
def keywords() -> frozenset[str]:
    """Words of usage lines, which are no columns."""
    usages = " ".join(VERBS.declaration(name).usage for name in VERBS.names())
    functions = [name.partition("(")[0] for name in all_functions()]
    return frozenset(
        [*NAMES.findall(usages), *functions, "and", "or", "is", "contains", "matches", "then", "else"]
    )


def _damaged(random: Random, text: str) -> str:
    tokens = re.findall(r"\w+|\s+|.", text)
    at = random.randrange(len(tokens) + 1)
    choice = random.randrange(4)
    if choice == 0:
        tokens[at : at + 1] = []
    elif choice == 1:
        tokens.insert(at, random.choice(WORDS))
    elif choice == 2:
        tokens[at : at + 1] = tokens[at : at + 1] * random.choice((2, 60))
    else:
        other = random.randrange(len(tokens))
        tokens.insert(at, tokens[other])
    return "".join(tokens)
