"""The reference, made from the verbs' own declarations and the topics. Pages are Markdown."""

from __future__ import annotations

import re
from collections.abc import Iterator

from mangler.language.declaration import Declaration, Example
from mangler.language.foreign_words import FUNCTIONS as FUNCTIONS_ELSEWHERE
from mangler.language.foreign_words import PHRASES
from mangler.language.foreign_words import VERBS as VERBS_ELSEWHERE
from mangler.language.mistake import ExitCode, Mistake, Refusal, nearest
from mangler.language.source import Source
from mangler.language.tables import read_small_table, table_lines
from mangler.language.usage import Usage, parse_usage
from mangler.language.walk import KIND_WORDS
from mangler.manual.mistakes import KINDS
from mangler.manual.topics import TOPICS, Topic
from mangler.steps import VERBS

WHERE = (
    "Only rows for which this is true, tested once per row before the statement; the others stay as they are, and so do"
    " rows for which it is null. `mangler manual expressions` shows what can be asked."
)


def overview() -> str:
    """The first page: every verb and every topic, one line each."""
    lines = [
        "# Mangler's reference",
        "",
        "`mangler manual WORD` shows a page: a verb, a clause, a function, or a topic.",
        "",
    ]
    lines += ["## Verbs", ""]
    verbs = [(name, first_sentence(VERBS.declaration(name).meaning)) for name in VERBS.names()]
    lines += [*_entries(verbs), "", "## Functions", ""]
    lines += _entries([(family, ", ".join(names) + ".") for family, names in function_names().items()])
    lines += _entries([("aggregates", f"of a group's rows: {', '.join(aggregate_names())}.")])
    lines += ["", "## Topics", ""]
    lines += _entries([(topic.name, topic.meaning) for topic in TOPICS])
    return "\n".join(lines) + "\n"


def find(word: str) -> list[str]:
    """The pages that a word leads to. A word that leads to none is refused, with the nearest that do."""
    wanted = " ".join(word.lower().split())
    pages = [verb_page(VERBS.declaration(name)) for name in _verbs_called(wanted)]
    pages += [function_page(wanted)] if wanted in all_functions() else []
    pages += [aggregate_page(wanted)] if wanted in aggregate_names() else []
    pages += [topic_page(topic) for topic in TOPICS if wanted == topic.name]
    if wanted == "functions":
        pages.append(functions_page())
    if wanted == "aggregates":
        pages.append(aggregates_page())
    if not pages:
        pages = [verb_page(VERBS.declaration(name)) for name in VERBS.names() if wanted in _clauses(name)]
        pages += [topic_page(topic) for topic in TOPICS if wanted in topic.words]
    if wanted in KINDS:  # four of them are clauses too
        pages.append(mistake_page(wanted))
    if not pages:
        pages = _pages_of_foreign(wanted)
    if pages:
        return pages
    close = nearest(wanted, words(), 3)
    advice = f"Nearest: {', '.join(close)}. " if close else ""
    raise Refusal(
        [
            Mistake(
                "unknown-manual-page",
                f'the manual has no page for "{word}"',
                f"{advice}mangler manual lists all pages.",
            )
        ],
        ExitCode.WRONG_FOR_ANY_EXTRACT,
    )


def mistake_page(word: str) -> str:
    """What a kind of mistake means, and how it is put right."""
    kind = KINDS[word]
    lines = [f"# {word}", "", kind.meaning, ""]
    for head, example in (("Wrong:", kind.wrong), ("Right:", kind.right)):
        if example:
            lines += [head, "", "```", *example.split("\n"), "```", ""]
    return "\n".join([*lines, kind.fix]).rstrip("\n") + "\n"


def _pages_of_foreign(word: str) -> list[str]:
    """The pages of what replaces a word from elsewhere: of a verb, or of functions."""
    line = VERBS_ELSEWHERE.get(word) or PHRASES.get(word, "")
    found = [
        verb_page(VERBS.declaration(name)) for name in VERBS.names() if f"{line} ".startswith(f"{name} ")
    ]
    form = FUNCTIONS_ELSEWHERE.get(word, "")
    named = re.findall(r"\b([a-z_]+)\(", form)
    found += [function_page(name) for name in named if name in all_functions()]
    found += [aggregate_page(name) for name in named if name in aggregate_names()]
    if form and not found:
        found = [topic_page(topic) for topic in TOPICS if topic.name == "expressions"]
    return found[:2]


def words() -> list[str]:
    """Every word that leads to a page."""
    found = [*VERBS.names(), *(name.split()[0] for name in VERBS.names())]
    found += [clause for name in VERBS.names() for clause in _clauses(name)]
    found += ["functions", *all_functions(), "aggregates", *aggregate_names()]
    found += [word for topic in TOPICS for word in (topic.name, *topic.words)]
    found += sorted(KINDS)
    return list(dict.fromkeys(found))


def verb_page(declaration: Declaration) -> str:
    lines = [f"# {declaration.name}", "", "```", declaration.usage, "```", "", declaration.meaning, ""]
    kinds = kinds_of(parse_usage(declaration.name, declaration.usage))
    if kinds:
        lines += ["; ".join(f"`{kind}` is {KIND_WORDS[kind]}" for kind in kinds) + ".", ""]
    if "[where CONDITION]" in declaration.usage:
        clauses = {**declaration.clauses, "where": declaration.clauses.get("where", WHERE)}
    else:
        clauses = dict(declaration.clauses)
    if clauses:
        lines += [*_entries(list(clauses.items())), ""]
    for example in declaration.examples:
        lines += ["```", *example_lines(example), "```", ""]
    return "\n".join(lines).rstrip("\n") + "\n"


def all_functions() -> list[str]:
    return [name for names in function_names().values() for name in names]


def function_names() -> dict[str, list[str]]:
    """The functions of each family, loaded when the reference is asked for."""
    from mangler.expressions.registry import FAMILIES

    return {family: [function.name for function in functions] for family, functions in FAMILIES.items()}


def function_page(name: str) -> str:
    from mangler.expressions.registry import FUNCTIONS

    function = FUNCTIONS[name]
    lines = [f"# {function.signature}", "", function.meaning, ""]
    if "[," in function.signature:
        lines += ["What is written in brackets may be left out.", ""]
    lines += ["```", *(f"{expression}  →  {value}" for expression, value in function.examples), "```"]
    return "\n".join(lines) + "\n"


def functions_page() -> str:
    """Every function in a line, by family."""
    from mangler.expressions.registry import FAMILIES

    lines = ["# functions", "", "Absent is null: a function of null is null by default.", ""]
    for family, functions in FAMILIES.items():
        lines += [f"## {family}", ""]
        lines += [f"- `{f.signature}`: {first_sentence(f.meaning)}" for f in functions]
        lines.append("")
    return "\n".join(lines).rstrip("\n") + "\n"


def aggregate_names() -> list[str]:
    from mangler.expressions.aggregates.registry import AGGREGATES

    return list(AGGREGATES)


def aggregate_page(name: str) -> str:
    from mangler.expressions.aggregates.registry import AGGREGATES

    aggregate = AGGREGATES[name]
    lines = [
        f"# {aggregate.signature}",
        "",
        f"An aggregate, for group, pivot, and make … within. {aggregate.meaning}",
        "",
    ]
    if "[" in aggregate.signature:
        lines += ["What is written in brackets may be left out.", ""]
    for example in aggregate.examples:
        lines += ["```", *example_lines(example), "```", ""]
    return "\n".join(lines).rstrip("\n") + "\n"


def aggregates_page() -> str:
    """Every aggregate in a line."""
    from mangler.expressions.aggregates.registry import AGGREGATES

    lines = ["# aggregates", "", AGGREGATES_TOGETHER, ""]
    lines += _entries([(a.signature, first_sentence(a.meaning)) for a in AGGREGATES.values()])
    return "\n".join(lines) + "\n"


AGGREGATES_TOGETHER = (
    "What brings the rows of a group together, in group, in pivot and in make … within. An argument is any expression"
    " on the rows; what comes from an aggregate can be used in an expression like any value:"
    " `round(100 * sum(good) / count(), 1)`."
)


def kinds_of(usage: Usage) -> list[str]:
    """The kinds of value in a usage line, each once, in their order."""
    found = re.findall(r"\b[A-Z]{3,}\b", usage.text)
    return list(dict.fromkeys(found))


def topic_page(topic: Topic) -> str:
    return f"# {topic.name}\n\n{topic.meaning}\n\n{topic.text}"


def example_lines(example: Example) -> list[str]:
    """An example as it would be in a recipe: the step, and a test under it."""
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
    parts += ["## Functions\n\nAbsent is null: a function of null is null by default."]
    parts += [_lower(_lower(function_page(name))) for name in all_functions()]
    parts += [f"## Aggregates\n\n{AGGREGATES_TOGETHER}"]
    parts += [_lower(_lower(aggregate_page(name))) for name in aggregate_names()]
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
    yield from table_lines(read_small_table(Source("example", text), is_result=True))


def _verbs_called(wanted: str) -> list[str]:
    exact = [name for name in VERBS.names() if name == wanted]
    return exact or [name for name in VERBS.names() if name.split()[0] == wanted]


def _clauses(verb: str) -> list[str]:
    declaration = VERBS.declaration(verb)
    words_of_verb = parse_usage(verb, declaration.usage).all_words()
    return [
        *map(str.lower, declaration.clauses),
        *(word for word in words_of_verb if word not in ("in", "with", "to")),
    ]
