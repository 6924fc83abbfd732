"""Generated statements and expressions come back unchanged through format and parse.

Clause words are as column names everywhere, since nothing else would notice a usage line that takes a
column for a clause.
"""

from __future__ import annotations

from dataclasses import replace

from hypothesis import given, settings
from hypothesis import strategies as st

from mangler.language.cursor import Cursor
from mangler.language.expression import (
    AGGREGATES,
    KINDS_OF_VALUE,
    RESERVED,
    Between,
    Call,
    Chain,
    Choice,
    Column,
    Expression,
    Kindness,
    Membership,
    Operation,
)
from mangler.language.expression_reader import read_expression
from mangler.language.kinds import READERS
from mangler.language.layout import format_recipe, format_statement, join_tokens
from mangler.language.literals import Hole, Number, Template, Text, Truth
from mangler.language.patterns import Pattern
from mangler.language.recipe import parse_recipe
from mangler.language.source import Source, SourceSpan
from mangler.language.statement_reader import read_statement
from mangler.language.usage import Kind, Listed, Options, Part, Word, parse_usage
from mangler.steps import VERBS

NOWHERE = SourceSpan(Source("", ""), 0, 0)
CLAUSE_WORDS = sorted(
    {
        word
        for name in VERBS.names()
        for word in parse_usage(name, VERBS.declaration(name).usage).all_words() | set(name.split())
    }
)
UNRESERVED = [word for word in CLAUSE_WORDS if word not in RESERVED]

# Statements, spelled from the usage lines themselves

names = st.sampled_from(
    [*UNRESERVED, "kiln", "größe", "[Fired at?]", "[a]]b]", '["x\\ny"]', "text", "except"]
)
texts = st.sampled_from(['""', '"a, b"', "'it''s {x}'", '"\\u{00A0}\\t"', "'# no comment'", '"in columns"'])
patterns = st.sampled_from(["/a+/", "/\\s#\\//i", "/[(?=/]/".replace("/]", "]"), "/(\\d)x/s"])
gaps = st.sampled_from([" ", "  ", "\n  ", " # a comment\n  ", "\n  # a comment of its own\n\n    "])
literals = st.one_of(texts, st.sampled_from(["12", "1_000", "-0.5", "true"]))


@st.composite
def column_lists(draw: st.DrawFn, first: str = "") -> str:
    def item() -> str:
        kind = draw(st.integers(0, 5))
        if kind == 0:
            return "*"
        if kind == 1:
            return draw(patterns)
        if kind == 2:
            return draw(st.sampled_from(["text columns", "numeric  columns", "date columns"]))
        return draw(names) + ("?" if kind == 3 else "")

    items = [item() for _ in range(draw(st.integers(1, 4)))]
    spelled = ", ".join(items)
    if draw(st.booleans()):
        spelled += f" except {draw(names)},  {draw(names)}"
    return first + spelled


VALUES = {
    "COLUMNS": column_lists(),
    "NAMES": st.lists(names, min_size=1, max_size=4, unique=True).map(" , ".join),
    "TEXT": texts,
    "TEXTS": st.lists(texts, min_size=1, max_size=3).map(", ".join),
    "NAME": names,
    "NUMBER": st.sampled_from(["1", "20"]),
    "NUMBERS": st.sampled_from(["1", "8, 12, 3"]),
    "MATCHER": st.one_of(texts.filter(lambda text: text != '""'), patterns),
    "MATCHERS": st.lists(st.one_of(texts, patterns), min_size=1, max_size=3).map(",".join),
    "VALUE": literals,
    "AMOUNT": st.sampled_from(["5 rows", "1 row", "0.5%", "12 %"]),
    "COLUMN": names,
    "EXPR": st.sampled_from(
        ["upper( trim(kiln) )", '"{kiln} / {potter?}"', "-with + 2*3", "if x then 1 else null"]
    ),
    "TYPE": st.sampled_from(["text", "integer", "decimal", "timestamp"]),
    "CLASSES": st.sampled_from(["letters", "digits,spaces", 'controls, "-/ ]^\\\\", symbols']),
    "PATTERN": patterns,
    "DELIMITERS": st.one_of(
        st.lists(st.one_of(texts, patterns), min_size=1, max_size=3).map(",".join),
        st.sampled_from(["2", "2 ,5"]),
    ),
    "PARTS": st.lists(
        st.one_of(names, names.map("{}?".format), names.map("{}? /a+/".format)), min_size=1, max_size=4
    )
    .map(", ".join)
    .filter(lambda spelled: not spelled.startswith(("columns", "rows"))),
    "NAMING": st.sampled_from(['"{column}_{n}"', '"part {n}"', "'{plain}'"]),
    "SIGNATURE": st.sampled_from(["tidy(x)", "tidy( with ,  y )", "now()"]),
    "CONDITION": st.sampled_from(["cone = '06'", "not (kiln in ('007', '012') or with is null)"]),
}


CELLS = ["x", "null", '""', '" a|b "', "# 1", "größe", '"\\u{00A0}\\n"', '"becomes"']


@st.composite
def statements(draw: st.DrawFn) -> str:
    """A statement of any verb, its clauses in any order, with blanks and comments anywhere between."""
    name = draw(st.sampled_from(list(VERBS.names())))
    usage = parse_usage(name, VERBS.declaration(name).usage)
    pieces = name.split()
    for part in usage.fixed:
        pieces += spell(draw, part)
    if name == "require columns" and not pieces[2].startswith("[") and len(pieces) == 3:
        pieces[2] = pieces[2].replace("exactly", "[exactly]", 1)  # the one place where it is reserved
    for clause in draw(st.permutations(usage.clauses)):
        pieces += spell(draw, clause)
    if usage.has_body:  # its head takes one line
        return " ".join(pieces) + draw(st.sampled_from(["", "  # a comment"])) + draw(bodies())
    text = pieces[0]
    for piece in pieces[1:]:
        text += draw(gaps) + piece
    return text


@st.composite
def bodies(draw: st.DrawFn) -> str:
    """Two small tables, with blanks and blank lines here and there."""
    lines = []
    for middle in ("becomes", ""):
        heads = draw(st.lists(names, min_size=1, max_size=3, unique=True))
        lines.append(draw(st.sampled_from([" | ", "|"])).join(heads))
        for _ in range(draw(st.integers(0, 3))):
            lines.append(" | ".join(draw(st.sampled_from(CELLS)) for _ in heads))
        lines.append(middle)
    return "".join(draw(st.sampled_from(["\n  ", "\n\n \t", "\n      "])) + line for line in lines)


def spell(draw: st.DrawFn, part: Part) -> list[str]:
    if isinstance(part, Word):
        return [part.text]
    if isinstance(part, Kind):
        return [draw(VALUES[part.name])]
    if isinstance(part, Listed):
        items = [
            " ".join(piece for inner in part.item.parts for piece in spell(draw, inner))
            for _ in range(draw(st.integers(1, 3)))
        ]
        return [", ".join(items)]
    assert isinstance(part, Options)
    if not part.required and draw(st.booleans()):
        return []
    choice = draw(st.sampled_from(part.choices))
    if choice.parts[0] == Kind("NAMES"):  # left out or several: one alone could be a clause
        return [" , ".join(draw(st.lists(names, min_size=2, max_size=3, unique=True)))]
    return [piece for inner in choice.parts for piece in spell(draw, inner)]


def read(text: str):  # type: ignore[no-untyped-def]
    return read_statement(Cursor(Source("recipe", text), 0, len(text)), VERBS)


def test_every_kind_of_value_has_a_generator() -> None:
    used = {
        part.name
        for name in VERBS.names()
        for part in _kinds(parse_usage(name, VERBS.declaration(name).usage))
    }
    assert used <= set(VALUES) and used <= set(READERS)


def _kinds(usage) -> list[Kind]:  # type: ignore[no-untyped-def]
    found: list[Kind] = []

    def look(part: Part) -> None:
        if isinstance(part, Kind):
            found.append(part)
        elif isinstance(part, Listed):
            for inner in part.item.parts:
                look(inner)
        elif isinstance(part, Options):
            for choice in part.choices:
                for inner in choice.parts:
                    look(inner)

    for part in (*usage.fixed, *usage.clauses):
        look(part)
    return found


@settings(max_examples=400)
@given(statements())
def test_statements_come_back_unchanged(text: str) -> None:
    statement = read(text)
    formatted = format_statement(statement)
    again = read(formatted)
    assert again == statement
    assert format_statement(again) == formatted
    comments = [c.text for stretch in statement.stretches for c in stretch.comments]
    assert sorted(comments) == sorted(c.text for stretch in again.stretches for c in stretch.comments)


@settings(max_examples=50)
@given(st.lists(st.one_of(st.just("# note"), st.just(""), column_lists("trim ")), max_size=8))
def test_recipes_come_back_unchanged(lines: list[str]) -> None:
    recipe = parse_recipe(Source("recipe", "\n".join(["mangler 1", *lines])), VERBS)
    formatted = format_recipe(recipe)
    again = parse_recipe(Source("recipe", formatted), VERBS)
    assert again.statements == recipe.statements
    assert format_recipe(again) == formatted
    assert formatted.count("# note") == lines.count("# note")


# Expressions, made as trees and spelled with as few brackets as precedence allows

column_names = st.sampled_from([*UNRESERVED, "kiln", "between", "is", "contains", "and", "or", "then"])
columns = column_names.map(lambda name: Column(name, NOWHERE))
leaves = st.one_of(
    columns,
    st.sampled_from(["", "a b", "{x}", "it's", '"']).map(lambda value: Text(value, NOWHERE)),
    st.integers(0, 99).map(lambda value: Number(value, NOWHERE)),
    st.sampled_from([True, False]).map(lambda value: Truth(value, NOWHERE)),
    columns.map(lambda column: Template(("a ", Hole(column, True), "{", Hole(column, False)), NOWHERE)),
)
RANKS = (("or",), ("and",), ("+", "-"), ("*", "/", "%"))
LEVELS = {"or": 1, "and": 2, "not": 3, "+": 5, "-": 5, "*": 6, "/": 6, "%": 6}
COMPARISONS = ("=", "!=", "<", "<=", ">", ">=", "contains", "starts with", "ends with")
functions = st.sampled_from([name for name in (*UNRESERVED, "house.tidy") if name not in AGGREGATES])


def grown(inner: st.SearchStrategy[Expression]) -> st.SearchStrategy[Expression]:
    two = st.tuples(inner, inner)
    return st.one_of(
        st.tuples(st.sampled_from(["or", "and", "+", "-", "*", "/", "%", *COMPARISONS]), two).map(
            lambda made: Operation(made[0], made[1], NOWHERE)
        ),
        inner.map(lambda one: Operation("not", (one,), NOWHERE)),
        columns.map(lambda one: Operation("-", (one,), NOWHERE)),
        st.tuples(st.lists(two, min_size=1, max_size=3), inner).map(
            lambda made: Choice(tuple(made[0]), made[1], NOWHERE)
        ),
        st.sampled_from(RANKS).flatmap(
            lambda rank: st.tuples(
                inner, st.lists(st.tuples(st.sampled_from(rank), inner), min_size=2, max_size=4)
            ).map(lambda made: Chain(made[0], tuple(made[1]), NOWHERE))
        ),
        st.tuples(inner, inner, inner).map(lambda made: Between(*made, NOWHERE)),
        st.tuples(inner, st.lists(inner, min_size=1, max_size=3)).map(
            lambda made: Membership(made[0], tuple(made[1]), NOWHERE)
        ),
        st.tuples(inner, st.sampled_from(KINDS_OF_VALUE)).map(lambda made: Kindness(*made, NOWHERE)),
        inner.map(lambda one: Operation("matches", (one, Pattern(r"a\/b", "i", NOWHERE)), NOWHERE)),
        st.tuples(functions, st.lists(inner, max_size=3)).map(
            lambda made: Call(made[0], tuple(made[1]), NOWHERE)
        ),
        st.tuples(st.sampled_from(AGGREGATES), inner, st.booleans(), st.none() | columns).map(
            lambda made: Call(made[0], (made[1],), NOWHERE, made[2], made[3], made[3] is not None and made[2])
        ),
    )


def write(node: Expression, least: int = 0) -> str:
    """The expression in brackets where it binds less tightly than `least`."""
    text, level = spelled(node)
    return f"({text})" if level < least else text


def operation(node: Operation) -> tuple[str, int]:
    operator, operands = node.operator, node.operands
    if operator == "not":
        return f"not {write(operands[0], 3)}", 3
    if operator == "-" and len(operands) == 1:
        return f"-{write(operands[0], 7)}", 7
    if operator == "matches":
        return f"{write(operands[0], 5)} matches /a\\/b/i", 4
    if operator in COMPARISONS:
        return f"{write(operands[0], 5)} {operator} {write(operands[1], 5)}", 4
    level = LEVELS[operator]
    return f"{write(operands[0], level + 1)} {operator} {write(operands[1], level + 1)}", level


def spelled(node: Expression) -> tuple[str, int]:
    if isinstance(node, Operation):
        return operation(node)
    if isinstance(node, Chain):
        level = LEVELS[node.links[0][0]]
        links = [f"{operator} {write(operand, level + 1)}" for operator, operand in node.links]
        return " ".join([write(node.first, level + 1), *links]), level
    if isinstance(node, Choice):
        arms = [f"if {write(condition)} then {write(value)} else" for condition, value in node.arms]
        return " ".join([*arms, write(node.other, 1)]), 0
    if isinstance(node, Between):
        return f"{write(node.subject, 5)} between {write(node.low, 5)} and {write(node.high, 5)}", 4
    if isinstance(node, Membership):
        return f"{write(node.subject, 5)} in ({', '.join(map(write, node.choices))})", 4
    if isinstance(node, Kindness):
        return f"{write(node.subject, 5)} is {node.kind}", 4
    if isinstance(node, Call):
        inside = ("distinct " if node.distinct else "") + ", ".join(map(write, node.arguments))
        if node.sorted_by is not None:
            inside += f" sorted by {write(node.sorted_by)}" + (" descending" if node.descending else "")
        return f"{node.function}({inside})", 8
    if isinstance(node, Text):
        return "'" + node.value.replace("'", "''") + "'", 8
    if isinstance(node, Template):
        holes = [
            part.replace("{", "\\{")
            if isinstance(part, str)
            else f"{{{write(part.expression)}{'?' * part.optional}}}"
            for part in node.parts
        ]
        return f'"{"".join(holes)}"', 8
    if isinstance(node, Column):
        return node.name, 8
    assert isinstance(node, Number | Truth)
    return str(node.value).lower(), 8


@settings(max_examples=500)
@given(st.recursive(leaves, grown, max_leaves=12))
def test_expressions_come_back_unchanged(tree: Expression) -> None:
    text = write(tree)
    cursor = Cursor(Source("recipe", text), 0, len(text))
    assert read_expression(cursor) == tree
    assert cursor.at_end()
    formatted = join_tokens(cursor.tokens)
    again = Cursor(Source("recipe", formatted), 0, len(formatted))
    assert read_expression(again) == tree
    assert join_tokens(again.tokens) == formatted


def test_the_generators_would_notice() -> None:
    """A statement that lost a clause is not equal to the whole one."""
    statement = read('nullify "-" in kiln anycase')
    shorter = replace(statement, values={k: v for k, v in statement.values.items() if k != "anycase"})
    assert shorter != statement
