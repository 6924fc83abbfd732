"""Binds what a statement asks of each row's group: `within`, `sorted by`, and expressions over both."""

from __future__ import annotations

from mangler.expressions.aggregates.bind import BoundAggregate, bind_aggregate
from mangler.expressions.aggregates.registry import AGGREGATES
from mangler.expressions.bind import bind_expression
from mangler.expressions.calls import is_known, unknown_function
from mangler.expressions.scope import HIDDEN, Surroundings
from mangler.expressions.value import Bound
from mangler.kernels.keys.order import SortKey
from mangler.language.expression import WINDOW_CALLS, Call, Column, Expression
from mangler.language.literals import Number
from mangler.language.mistake import Refusal, wrong_recipe
from mangler.language.names import parts_of, rebuilt
from mangler.language.statement import Statement
from mangler.late_dataclass import dataclass
from mangler.steps.shared.key_columns import columns_after_by, refuse_lists, sort_keys
from mangler.steps.within.calls import GroupValue, Next, Previous, Rank, SoFar, WindowCall
from mangler.table.schema import Schema, ValueType

WITHIN = "The rows that are alike in these columns are a row's group; all rows: the whole table is one."
SORTED_BY = (
    "The order of the rows within their group: equal ones as they come, nulls last. Without it they are as they come."
    " Where the rows are in the table does not change."
)
MOST_PLACES = 1_000_000
RUNNING = ("count", "sum", "mean", "min", "max", "first", "last")


@dataclass(frozen=True)
class Group:
    """Which rows are of one group, and in which order."""

    keys: tuple[int, ...]
    order: tuple[int, ...]
    sort_keys: tuple[SortKey, ...]


def is_within(statement: Statement) -> bool:
    return statement.has("within") or statement.has("within all rows")


def group_of(statement: Statement, schema: Schema, usage: str) -> Group:
    """What `within` and `sorted by` say."""
    keys: tuple[int, ...] = ()
    if statement.has("within"):
        keys = columns_after_by(statement, schema, usage, "one group, as with within all rows", "within")
        refuse_lists(schema, keys, statement.span_of("within"))
    if not statement.has("sorted by"):
        return Group(keys, (), ())
    order, by = sort_keys(statement.values["column"], schema)
    return Group(keys, order, by)


def bind_within(
    node: Expression, around: Surroundings, is_sorted: bool, number: int
) -> tuple[Bound, list[WindowCall]]:
    """An expression that sees the columns of its row, and what its calls ask of the row's group.

    The columns of its calls are numbered from `number` on.
    """
    found: list[WindowCall] = []

    def take(part: object) -> Column | None:
        if not isinstance(part, Call) or is_defined(part, around):
            return None
        if part.function not in AGGREGATES and part.function not in WINDOW_CALLS:
            return None
        name = f"{HIDDEN}{number + len(found)}"
        found.append(_call(part, around, is_sorted, name))
        return Column(name, part.span)

    rest = rebuilt(node, take)
    for part in parts_of(rest):
        if isinstance(part, Call) and not is_known(part, around):
            raise unknown_function(part, around, in_group=True)
    columns = tuple(call.column for call in found)
    inside = Surroundings(
        Schema((*around.schema.columns, *columns), around.schema.gone),
        around.names,
        clause_words=around.clause_words,
    )
    return bind_expression(rest, inside), found


def is_defined(call: Call, around: Surroundings) -> bool:
    return call.function in around.names.functions


def _call(node: Call, around: Surroundings, is_sorted: bool, name: str) -> WindowCall:
    if node.function in AGGREGATES:
        _refuse_nested(node, node.arguments)
        return GroupValue(bind_aggregate(node, around, False, name))
    if not is_sorted:
        raise wrong_recipe(
            "order-needed",
            f"{node.function} asks for the order of the rows in their group, and none is said",
            f"Say it at the end: within … sorted by COLUMN. {_usage(node)}",
            node.span,
        )
    if node.function == "running":
        return SoFar(_running(node, around, name))
    if node.function == "rank":
        if node.arguments:
            raise _wrong_form(node, "rank takes no argument: it is the place in what the rows are sorted by")
        return Rank(name)
    return _beside(node, around, name)


def _running(node: Call, around: Surroundings, name: str) -> BoundAggregate:
    inner = node.arguments[0] if len(node.arguments) == 1 else None
    if not isinstance(inner, Call) or inner.function not in AGGREGATES:
        raise _wrong_form(node, "running goes around one aggregate")
    _refuse_nested(inner, inner.arguments)
    ways = f"running takes {', '.join(RUNNING)}."
    if inner.function not in RUNNING or inner.distinct:
        what = f"{inner.function}(distinct …)" if inner.distinct else inner.function
        raise wrong_recipe(
            "wrong-argument",
            f"{what} needs all values at once, and running goes from row to row",
            f"{ways} {inner.span.text} without running is of the whole group.",
            inner.span,
        )
    if inner.sorted_by is not None:
        raise wrong_recipe(
            "wrong-argument",
            "running goes in the order of the statement's sorted by, and this has an order of its own",
            f"Take this one out: running({inner.function}(…)).",
            inner.span,
        )
    return bind_aggregate(inner, around, False, name)


def _beside(node: Call, around: Surroundings, name: str) -> WindowCall:
    if not 1 <= len(node.arguments) <= 2:
        has = "no argument" if not node.arguments else f"{len(node.arguments)} arguments"
        raise _wrong_form(node, f"{node.function} has {has} here")
    _refuse_nested(node, node.arguments)
    distance = 1
    if len(node.arguments) == 2:
        places = node.arguments[1]
        value = places.value if isinstance(places, Number) else None
        if value is None or value != int(value) or not 1 <= value <= MOST_PLACES:
            other = {"previous": "next", "next": "previous"}[node.function]
            spelled = node.arguments[0].span.text
            turned = f" {other}({spelled}) looks the other way." if value is not None and value < 0 else ""
            raise wrong_recipe(
                "wrong-argument",
                f"{places.span.text} is not a number of rows: a whole number from 1 to {MOST_PLACES:,} is needed here",
                f"{_usage(node)}{turned}",
                places.span,
            )
        distance = int(value)
    argument = bind_expression(node.arguments[0], around)
    kind = argument.kind or ValueType.TEXT
    maker = Previous if node.function == "previous" else Next
    return maker(name, kind, argument, distance)


def _refuse_nested(node: Call, arguments: tuple[Expression, ...]) -> None:
    for part in parts_of((*arguments, node.sorted_by)):
        if isinstance(part, Call) and (part.function in AGGREGATES or part.function in WINDOW_CALLS):
            raise wrong_recipe(
                "aggregate-in-aggregate",
                f"{part.function} is inside {node.function}, and a group is looked at once",
                "Make a column of the inner one first, in a statement of its own.",
                part.span,
            )


def _usage(node: Call) -> str:
    return f"Usage: {WINDOW_CALLS[node.function]}." if node.function in WINDOW_CALLS else ""


def _wrong_form(node: Call, message: str) -> Refusal:
    return wrong_recipe("wrong-argument", message, _usage(node), node.span)
