"""The reference, made from the verbs' own declarations and the topics. Pages are Markdown."""

from __future__ import annotations

import re
from collections.abc import Iterator

from mangler.language.declaration import Declaration, Example
from mangler.language.mistake import ExitCode, Mistake, Refusal, nearest
from mangler.language.source import Source
from mangler.language.tables import line_up, read_small_table
from mangler.language.usage import Usage, parse_usage
from mangler.language.walk import KIND_WORDS
from mangler.manual.topics import TOPICS, Topic
from mangler.steps import VERBS

WHERE = "Conditions have their place in the language, but this version evaluates none: a where is refused."


def overview() -> str:
    """The first page: every verb and every topic, a line each."""
    lines = [
        "# Mangler's reference",
        "",
        "`mangler manual WORD` shows a page: a verb, a clause, or a topic.",
        "",
    ]
    lines += ["## Verbs", ""]
    verbs = [(name, first_sentence(VERBS.declaration(name).meaning)) for name in VERBS.names()]
    lines += [*_entries(verbs), "", "## Topics", ""]
    lines += _entries([(topic.name, topic.meaning) for topic in TOPICS])
    return "\n".join(lines) + "\n"


def find(word: str) -> list[str]:
    """The pages that a word leads to. A word that leads to none is refused, with the nearest that do."""
    wanted = " ".join(word.lower().split())
    pages = [verb_page(VERBS.declaration(name)) for name in _verbs_called(wanted)]
    pages += [topic_page(topic) for topic in TOPICS if wanted == topic.name]
    if not pages:
        pages = [verb_page(VERBS.declaration(name)) for name in VERBS.names() if wanted in _clauses(name)]
        pages += [topic_page(topic) for topic in TOPICS if wanted in topic.words]
    if pages:
        return pages
    close = nearest(wanted, words(), 3)
    advice = f"Nearest: {', '.join(close)}. " if close else ""
    raise Refusal(
        [Mistake(f'the manual has no page for "{word}"', f"{advice}mangler manual lists all pages.")],
        ExitCode.WRONG_FOR_ANY_EXTRACT,
    )


def words() -> list[str]:
    """Every word that leads to a page."""
    found = [*VERBS.names(), *(name.split()[0] for name in VERBS.names())]
    found += [clause for name in VERBS.names() for clause in _clauses(name)]
    found += [word for topic in TOPICS for word in (topic.name, *topic.words)]
    return list(dict.fromkeys(found))


def verb_page(declaration: Declaration) -> str:
    lines = [f"# {declaration.name}", "", "```", declaration.usage, "```", "", declaration.meaning, ""]
    kinds = kinds_of(parse_usage(declaration.name, declaration.usage))
    if kinds:
        lines += ["; ".join(f"`{kind}` is {KIND_WORDS[kind]}" for kind in kinds) + ".", ""]
    if "[where CONDITION]" in declaration.usage:
        clauses = {**declaration.clauses, "where": WHERE}
    else:
        clauses = dict(declaration.clauses)
    if clauses:
        lines += [*_entries(list(clauses.items())), ""]
    for example in declaration.examples:
        lines += ["```", *example_lines(example), "```", ""]
    return "\n".join(lines).rstrip("\n") + "\n"


def kinds_of(usage: Usage) -> list[str]:
    """The kinds of value in a usage line, each once, in their order."""
    found = re.findall(r"\b[A-Z]{3,}\b", usage.text)
    return [kind for kind in dict.fromkeys(found) if kind != "CONDITION"]


def topic_page(topic: Topic) -> str:
    return f"# {topic.name}\n\n{topic.meaning}\n\n{topic.text}"


def example_lines(example: Example) -> list[str]:
    """An example as it would stand in a recipe: the step, and a test under it."""
    return [
        example.statement,
        "",
        "test",
        *(f"  {line}" for line in _table(example.before)),
        "  becomes",
        *(f"  {line}" for line in _table(example.after)),
    ]


def whole() -> str:
    """The whole reference as one document, `docs/manual.md`."""
    parts = [overview().rstrip("\n")]
    parts += [_lower(topic_page(topic)) for topic in TOPICS]
    parts += [_lower(verb_page(VERBS.declaration(name))) for name in VERBS.names()]
    note = "<!-- Made by `python -m mangler.manual`; CI finds it stale. -->"
    return note + "\n\n" + "\n\n".join(part.rstrip("\n") for part in parts) + "\n"


def first_sentence(text: str) -> str:
    """Up to the first full stop that ends a sentence, or its first colon's clause when that is long."""
    sentence = text.split(". ")[0].rstrip(".")
    return f"{sentence}."


def _entries(entries: list[tuple[str, str]]) -> list[str]:
    return [f"- `{name}`: {sentence}" for name, sentence in entries]


def _lower(page: str) -> str:
    """A page's heading one level down, as a part of the whole."""
    return "#" + page


def _table(text: str) -> Iterator[str]:
    table = read_small_table(Source("example", text))
    yield from line_up(table.spelled)


def _verbs_called(wanted: str) -> list[str]:
    exact = [name for name in VERBS.names() if name == wanted]
    return exact or [name for name in VERBS.names() if name.split()[0] == wanted]


def _clauses(verb: str) -> list[str]:
    declaration = VERBS.declaration(verb)
    words_of_verb = parse_usage(verb, declaration.usage).all_words()
    return [*declaration.clauses, *(word for word in words_of_verb if word not in ("in", "with", "to"))]
