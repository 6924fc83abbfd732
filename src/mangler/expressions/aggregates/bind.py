"""Binds expressions over aggregates: each becomes a column of its own, and the rest an expression on those."""

from __future__ import annotations

from decimal import Decimal
from fractions import Fraction

from mangler.expressions.aggregates.aggregate import Aggregate, Reducer, Wanted
from mangler.expressions.aggregates.registry import AGGREGATES
from mangler.expressions.bind import bind_expression, bind_of_any_type
from mangler.expressions.calls import is_known, unknown_function
from mangler.expressions.function import LIST, NUMBER
from mangler.expressions.scope import HIDDEN, Surroundings, describe, wrong_type
from mangler.expressions.value import Bound, cast_to, stored_in_places
from mangler.language.expression import Call, Choice, Column, Expression
from mangler.language.literals import Truth
from mangler.language.mistake import Refusal, wrong_recipe
from mangler.language.names import parts_of, rebuilt
from mangler.language.source import SourceSpan
from mangler.late_dataclass import dataclass
from mangler.table.schema import Column as TableColumn
from mangler.table.schema import Schema, ValueType
from mangler.table.select import quote_name


@dataclass(frozen=True)
class BoundAggregate:
    """An aggregate as it is in an expression, under the name of the column that its values go to."""

    name: str
    argument: Bound | None
    order: Bound | None
    reducer: Reducer
    span: SourceSpan
    skips_nulls: bool

    @property
    def text(self) -> str:
        return self.span.text

    @property
    def column(self) -> TableColumn:
        """The column that its values go to: of decimals with the places that the argument has."""
        kind = self.reducer.kind
        stored = None
        if kind is ValueType.DECIMAL and self.argument is not None:
            stored = stored_in_places(self.argument)
        return TableColumn(self.name, kind, stored)


def bind_over_groups(
    node: Expression, around: Surroundings, keys: Schema, anycase: bool, number: int
) -> tuple[Bound, list[BoundAggregate]]:
    """An expression whose aggregates see the rows of a group, and whose rest sees the columns that make the group.

    The columns of its aggregates are numbered from `number` on.
    """
    found: list[BoundAggregate] = []

    def take(part: object) -> Column | None:
        if not isinstance(part, Call) or part.function not in AGGREGATES:
            return None
        if part.function in around.names.functions:  # the recipe's own, older than the aggregate
            return None
        bound = bind_aggregate(part, around, anycase, f"{HIDDEN}{number + len(found)}")
        found.append(bound)
        return Column(bound.name, part.span)

    rest = rebuilt(node, take)
    names = {aggregate.name for aggregate in found} | set(keys.names)
    for part in parts_of(rest):
        if isinstance(part, Call) and not is_known(part, around):
            raise unknown_function(part, around, in_group=True)
        if isinstance(part, Column) and part.name in around.schema.names and part.name not in names:
            raise _not_of_the_group(part, around.schema)
    columns = tuple(aggregate.column for aggregate in found)
    inside = Surroundings(
        Schema((*keys.columns, *columns), around.schema.gone),
        around.names,
        clause_words=around.clause_words,
    )
    return bind_expression(rest, inside), found


def _not_of_the_group(column: Column, schema: Schema) -> Refusal:
    name = quote_name(column.name)
    kind = schema.columns[schema.names.index(column.name)].type
    ways = [f"first({name})", f"sum({name})" if kind in NUMBER else f'join(distinct {name}, ", ")']
    return wrong_recipe(
        "several-values-in-group",
        f'a group may have several values of "{column.name}", and this asks for one',
        f"Say which: {', '.join(ways)}. Or group by {name} too.",
        column.span,
    )


def bind_aggregate(node: Call, around: Surroundings, anycase: bool, name: str) -> BoundAggregate:
    """A call of an aggregate on these columns, its values under this name."""
    aggregate = AGGREGATES[node.function]
    for given in (*node.arguments, node.sorted_by):
        for part in parts_of(given):
            if isinstance(part, Call) and part.function in AGGREGATES:
                raise wrong_recipe(
                    "aggregate-in-aggregate",
                    f"{part.function} is inside {node.function}, and a group is brought together once",
                    "Write two statements, the second one grouping what comes out of the first.",
                    part.span,
                )
    _check_form(node, aggregate)
    argument = None
    if node.where is not None:
        met = Choice(((node.where, Truth(True, node.span)),), Truth(None, node.span), node.span)
        argument = bind_expression(met, around)
    elif node.arguments:  # how many there are can be asked of values of any type
        bind = bind_of_any_type if node.function == "count" and not node.distinct else bind_expression
        argument = bind(node.arguments[0], around)
    if argument is not None and node.where is None:
        argument = _fitting(argument, node, aggregate)
    order = None if node.sorted_by is None else bind_expression(node.sorted_by, around)
    if order is not None and order.kind in LIST:
        raise wrong_type("sorted by", order, "values that have an order")
    separator = _separator(node, around) if aggregate.takes_separator else ""
    share = _share(node, around) if aggregate.takes_share else 0.5
    wanted = Wanted(node, argument, order, separator, anycase, share)
    return BoundAggregate(name, argument, order, aggregate.reducer(wanted), node.span, aggregate.skips_nulls)


def _check_form(node: Call, aggregate: Aggregate) -> None:
    usage = f"Usage: {aggregate.signature}."
    given, most = len(node.arguments), 2 if aggregate.takes_separator or aggregate.takes_share else 1
    least = most if aggregate.needs_argument else 0
    if node.distinct or node.sorted_by is not None:
        least = most
    if not least <= given <= most:
        has = "no argument" if given == 0 else "1 argument" if given == 1 else f"{given} arguments"
        what = ""
        if given == 1 and most == 2:
            needed = (
                "a text to put between the values" if aggregate.takes_separator else "a share from 0 to 1"
            )
            what = f", and {needed} is needed"
        raise wrong_recipe("wrong-argument-count", f"{node.function} has {has} here{what}", usage, node.span)
    if node.distinct and not aggregate.takes_distinct:
        raise wrong_recipe(
            "wrong-argument",
            f"{node.function} takes no distinct",
            f"count, join and list do. {usage}",
            node.span,
        )
    if node.sorted_by is not None and not aggregate.takes_order:
        messages = (
            "its result is the same in any order" if node.function != "count" else "the order does not matter"
        )
        raise wrong_recipe(
            "wrong-argument", f"{node.function} takes no sorted by: {messages}", usage, node.span
        )


def _fitting(argument: Bound, node: Call, aggregate: Aggregate) -> Bound:
    """The argument, of a type that the aggregate works on."""
    accepts = aggregate.accepts
    if argument.kind is None:
        return cast_to(
            argument, ValueType.TEXT if accepts is None or ValueType.TEXT in accepts else ValueType.INTEGER
        )
    if argument.kind is ValueType.LIST and node.distinct:
        raise wrong_type(f"{node.function}(distinct)", argument, "values that can be compared")
    if accepts is None or argument.kind in accepts:
        return argument
    if accepts != NUMBER:
        raise wrong_type(node.function, argument, "single values")
    spelled = argument.span.text
    reducer = f"How many parts it has: {node.function}(size({spelled}))."
    if argument.kind is ValueType.TEXT:
        column = isinstance(node.arguments[0], Column)
        convert = f"convert {spelled} to integer" if column else f"{node.function}(integer({spelled}))"
        reducer = (
            f'To put texts together: join({spelled}, ", "). To work with numbers, convert first: {convert}.'
        )
    elif argument.kind is ValueType.BOOLEAN:
        reducer = f"To count what is true: {node.function}(if {spelled} then 1 else 0)."
    elif argument.kind is not ValueType.LIST:
        reducer = f"min({spelled}) and max({spelled}) work on it."
    raise wrong_recipe(
        "wrong-type",
        f"{node.function} works on numbers, and {spelled} is {describe(argument.kind)}",
        reducer,
        argument.span,
    )


def _share(node: Call, around: Surroundings) -> float:
    bound = bind_expression(node.arguments[1], around)
    if isinstance(bound.literal, (int, Decimal)) and not isinstance(bound.literal, bool):
        share = Fraction(bound.literal)
        if 0 <= share <= 1:
            return float(share)
    raise wrong_recipe(
        "wrong-argument",
        f"{bound.span.text} is not a share: a number from 0 to 1 is needed here",
        f"The value that nine of ten do not exceed: {node.function}({node.arguments[0].span.text}, 0.9).",
        bound.span,
    )


def _separator(node: Call, around: Surroundings) -> str:
    bound = bind_expression(node.arguments[1], around)
    if isinstance(bound.literal, str):
        return bound.literal
    raise wrong_recipe(
        "wrong-argument",
        f"{bound.span.text} is not a plain text, and one is needed between the values",
        f'Write it in quotes: {node.function}(…, ", ").',
        bound.span,
    )
