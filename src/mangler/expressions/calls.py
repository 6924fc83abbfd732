"""Binds calls: of the language's functions, and of the functions that a recipe defines."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from datetime import date
from typing import TypeAlias

from mangler.expressions.counting import refuse_literal, sound_count
from mangler.expressions.function import WORDS, Function, Look, Parameter
from mangler.expressions.moments import bind_moment
from mangler.expressions.registry import FUNCTIONS, function_named
from mangler.expressions.scope import Surroundings, wrong_type
from mangler.expressions.value import Bound, Failure, Frame, Value, cast_to, constant
from mangler.kernels.arrow import ColumnArray
from mangler.kernels.text.patterns import matches_empty_text
from mangler.language.expression import AGGREGATES, MOMENT_CALLS, WINDOW_CALLS, Call, Column, Expression
from mangler.language.foreign_words import form_for_function
from mangler.language.mistake import Mistake, Refusal, nearest, wrong_recipe
from mangler.language.patterns import Pattern
from mangler.language.scope import Definition
from mangler.table.schema import ValueType

MOST_EXPANSIONS = 1000
"""Calls of definitions in one expression: each is written out in place, and may hold others."""
SEVERAL = 7
"""Types that a parameter takes, from which on null is of none of them."""
RENAMED = {"source_row": "extract_row", "source_file": "extract_file"}
BindArgument: TypeAlias = Callable[[Expression, Surroundings], Bound]


def bind_call(node: Call, around: Surroundings, bind: BindArgument) -> Bound:
    definition = around.names.functions.get(node.function)
    if definition is not None:
        return _defined(node, definition, around, bind)
    function = function_named(node.function)
    if function is None:
        raise unknown_function(node, around)
    _check_count(node, function)
    parameters = _spread(function.parameters, len(node.arguments))
    arguments: list[Bound | Look | None] = []
    if function.name == "run_date":
        return constant(around.names.run_date or date.today(), ValueType.DATE, node.span)
    for parameter, argument in zip(parameters, node.arguments, strict=False):
        secret = _secret(function, parameter, argument, around)
        if secret is not None:
            arguments.append(secret)
            continue
        arguments.append(_argument(function, parameter, argument, around, bind))
    arguments += [None] * (len(parameters) - len(arguments))
    if node.function in MOMENT_CALLS:
        bounds = [a for a in arguments if isinstance(a, Bound)]
        return bind_moment(function.gives, bounds, node.language, node.span)
    if function.bind is not None:
        bound = function.bind([a for a in arguments if isinstance(a, Bound)], node.span)
        return replace(bound, span=node.span)
    return _called(node, function, parameters, arguments)


def _secret(
    function: Function, parameter: Parameter, argument: Expression, around: Surroundings
) -> Bound | None:
    """A secret parameter, where it may be; without its literal, which nobody is to see."""
    if function.name != "keyed_hash" or parameter.name != "key" or not isinstance(argument, Column):
        return None
    if around.arguments is not None or argument.name not in around.names.secrets:
        return None
    if argument.name in around.schema.names:
        raise wrong_recipe(
            "ambiguous-name",
            f'"{argument.name}" is a parameter and a column',
            "Give the parameter another name: which of them is meant cannot be known.",
            argument.span,
        )
    value = around.names.secrets[argument.name].value
    return replace(constant(value, ValueType.TEXT, argument.span), literal=None)


def _called(
    node: Call, function: Function, parameters: Sequence[Parameter], arguments: Sequence[Bound | Look | None]
) -> Bound:
    work = function.work
    assert work is not None

    def evaluate(frame: Frame) -> Value:
        values: list[ColumnArray] = []
        failures: tuple[Failure, ...] = ()
        for parameter, argument in zip(parameters, arguments, strict=True):
            if not isinstance(argument, Bound):
                values.append(argument)
                continue
            value = argument.evaluate(frame)
            failures = (*failures, *value.failures)
            if parameter.counts is None:
                values.append(value.data)
                continue
            counts, wrong = sound_count(parameter.counts, values[0], value.data, frame)
            values.append(counts)
            failures = (*failures, *wrong)
        done = work(values, frame)
        return Value(done.data, failures + done.failures)

    return Bound(function.gives, evaluate, node.span)


def _spread(parameters: Sequence[Parameter], count: int) -> list[Parameter]:
    """A parameter an argument: a repeated one as often as it takes."""
    out = list(parameters)
    while out and out[-1].repeated and len(out) < count:
        out.append(out[-1])
    return out


def _check_count(node: Call, function: Function) -> None:
    least = sum(not parameter.optional for parameter in function.parameters)
    most = None if any(p.repeated for p in function.parameters) else len(function.parameters)
    given = len(node.arguments)
    if given < least or (most is not None and given > most):
        has = "no argument" if given == 0 else "1 argument" if given == 1 else f"{given} arguments"
        raise wrong_recipe(
            "wrong-argument-count",
            f"{node.function} has {has} here",
            f"Usage: {function.signature}.",
            node.span,
        )


def _argument(
    function: Function, parameter: Parameter, node: Expression, around: Surroundings, bind: BindArgument
) -> Bound | Look:
    if isinstance(node, Pattern):
        if not parameter.pattern:
            raise wrong_recipe(
                "wrong-argument",
                f"{function.name} takes no pattern as its {parameter.name}",
                f"Usage: {function.signature}.",
                node.span,
            )
        if matches_empty_text(node.re2):
            raise wrong_recipe(
                "empty-pattern",
                "this pattern matches the empty text, which is everywhere",
                "Ask for at least one character.",
                node.span,
            )
        return Look(node.re2)
    bound = bind(node, around)
    if bound.kind is None:
        return cast_to(bound, sorted(parameter.accepts)[-1]) if len(parameter.accepts) < SEVERAL else bound
    if bound.kind not in parameter.accepts:
        raise wrong_type(
            f"{function.name}({parameter.name})", bound, WORDS.get(parameter.accepts, "other values")
        )
    if parameter.counts is not None:
        refuse_literal(function.name, parameter.counts, bound)
    return bound


def is_known(node: Call, around: Surroundings) -> bool:
    """Whether a call is of a function of the language or of the recipe."""
    return node.function in around.names.functions or function_named(node.function) is not None


def _form_of_method(node: Call, around: Surroundings) -> str:
    """`notes.strip()` and `re.sub(…)` of programming languages: the function, with the column as its first value."""
    owner, dot, method = node.function.rpartition(".")
    if not dot:
        return ""
    arguments = [argument.span.text for argument in node.arguments]
    if owner in around.schema.names:
        arguments = [owner, *arguments]
    elif method in ("sub", "replace") and len(arguments) == 3:  # re.sub(pattern, new, text)
        arguments = [arguments[2], *arguments[:2]]
    if method in FUNCTIONS:
        return f"{method}({', '.join(arguments)})"
    return form_for_function(method, arguments)


def unknown_function(node: Call, around: Surroundings, in_group: bool = False) -> Refusal:
    """The mistake of calling what there is not; in a group also aggregates may be meant."""
    name = node.function
    if name in ("max", "min") and len(node.arguments) > 1:
        instead = {"max": "greatest", "min": "least"}[name]
        said = ", ".join(argument.span.text for argument in node.arguments)
        return wrong_recipe(
            "aggregate-without-group",
            f"{name} is of the rows of a group, and these are several values of one row",
            f"Write {instead}({said}).",
            node.span,
        )
    if name in AGGREGATES:
        return wrong_recipe(
            "aggregate-without-group",
            f"{name} brings rows together, and this is one row at a time",
            f"For one row per group: group by COLUMNS with NAME = {node.span.text}."
            f" To keep the rows: make NAME = {node.span.text} within COLUMNS.",
            node.span,
        )
    if name in WINDOW_CALLS:
        return wrong_recipe(
            "order-needed",
            f"{name} looks at the rows beside this one, and in which order they are is not said",
            f"Write make NAME = {node.span.text} within COLUMNS sorted by COLUMN.",
            node.span,
        )
    if name in RENAMED:
        return wrong_recipe(
            "unknown-function",
            f"{name}() is called {RENAMED[name]}() now",
            f"Write {RENAMED[name]}().",
            node.span,
        )
    form = form_for_function(name, [argument.span.text for argument in node.arguments])
    form = form or _form_of_method(node, around)
    if form:
        return wrong_recipe(
            "unknown-function",
            f'there is no function "{name}"',
            f"Write {form}.",
            node.span,
        )
    own = list(around.names.functions)
    close = nearest(name, [*FUNCTIONS, *own, *(AGGREGATES if in_group else ())], 3)
    advice = f"Nearest: {', '.join(close)}. " if close else ""
    return wrong_recipe(
        "unknown-function",
        f'there is no {"aggregate or " * in_group}function "{name}"',
        f"{advice}mangler manual {'aggregates and mangler manual ' * in_group}functions lists all.",
        node.span,
    )


def _defined(node: Call, definition: Definition, around: Surroundings, bind: BindArgument) -> Bound:
    """A recipe's own function: its body with the arguments in the place of its parameters."""
    if len(node.arguments) != len(definition.parameters):
        form = f"{node.function}({', '.join(definition.parameters)})"
        raise wrong_recipe(
            "wrong-argument-count",
            f"{node.function} takes {len(definition.parameters)} arguments, and here are {len(node.arguments)}",
            f"Usage: {form}.",
            node.span,
        )
    around.expansions["all"] += 1
    if around.expansions["all"] > MOST_EXPANSIONS:
        raise wrong_recipe(
            "too-many-calls",
            f"this expression calls definitions more than {MOST_EXPANSIONS:,} times, those inside others counted",
            "Make a column for a part of it first.",
            node.span,
        )
    arguments = {
        name: _once(bind(argument, around))
        for name, argument in zip(definition.parameters, node.arguments, strict=True)
    }
    inside = Surroundings(around.schema, definition.scope, arguments=arguments, expansions=around.expansions)
    try:
        bound = bind(definition.body, inside)
    except Refusal as refusal:
        raise Refusal(
            [_in_both_places(mistake, node) for mistake in refusal.mistakes], refusal.code
        ) from None
    return replace(bound, span=node.span)


def _once(bound: Bound) -> Bound:
    """An argument is evaluated once, however often the body uses it."""
    key = id(bound.evaluate)

    def evaluate(frame: Frame) -> Value:
        if key not in frame.known:
            frame.known[key] = bound.evaluate(frame)
        return frame.known[key]

    return Bound(bound.kind, evaluate, bound.span, bound.literal)


def _in_both_places(mistake: Mistake, node: Call) -> Mistake:
    if mistake.span is None or (mistake.span.source is node.span.source and _inside(mistake, node)):
        return mistake
    span = node.span
    message = f"Called in {span.source.name}, line {span.line}: {span.text}"
    return replace(mistake, advice=f"{mistake.advice}\n{message}".lstrip("\n"))


def _inside(mistake: Mistake, node: Call) -> bool:
    """Whether the mistake is in the call itself, and so need not name it."""
    span = mistake.span
    return span is not None and node.span.start <= span.start < node.span.end
