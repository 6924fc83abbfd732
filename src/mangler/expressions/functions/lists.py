"""Functions on lists of texts."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.expressions.counting import Counts
from mangler.expressions.function import INTEGER, LIST, Argument, Function, Parameter, on_mark, on_texts
from mangler.expressions.functions.elements import codes, nth, owners, regrouped, split_at
from mangler.expressions.value import Frame, Value
from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.table.schema import ValueType

PARTS = Parameter("list", LIST)
GLAZES = 'split("ash;celadon;ash", ";")'


def _split(arguments: Sequence[Argument], frame: Frame) -> Value:
    text, delimiter = arguments
    return on_mark(
        text,
        delimiter,
        [],
        split_at,
        frame,
        ValueType.LIST,
    )


def _array(argument: Argument, frame: Frame) -> ColumnArray:
    return Value(argument).array(frame.count)


def _joined(arguments: Sequence[Argument], frame: Frame) -> Value:
    lists, separator = _array(arguments[0], frame), _array(arguments[1], frame)
    parts = lists.flatten()
    if parts.null_count:  # only files have them; Arrow would make null of the whole text
        there = np.asarray(parts.is_valid())
        lists = regrouped(lists, parts.drop_null(), owners(lists)[there])
    return Value(pc.binary_join(lists, separator))


def _unique(arguments: Sequence[Argument], frame: Frame) -> Value:
    lists = _array(arguments[0], frame)
    parts, owner = lists.flatten(), owners(lists)
    number, values = codes(parts)
    _, first = np.unique(owner * (len(values) + 1) + number, return_index=True)
    first.sort()
    return Value(regrouped(lists, parts.take(from_numpy(first)), owner[first]))


def _sorted(arguments: Sequence[Argument], frame: Frame) -> Value:
    """By code point."""
    lists = _array(arguments[0], frame)
    parts, owner = lists.flatten(), owners(lists)
    number, values = codes(parts)
    rank = np.empty(len(values), np.int64)
    rank[np.asarray(pc.sort_indices(values))] = np.arange(len(values))
    order = np.lexsort((rank[number], owner)) if len(number) else np.zeros(0, np.int64)
    return Value(regrouped(lists, parts.take(from_numpy(order)), owner))


def _without(arguments: Sequence[Argument], frame: Frame) -> Value:
    lists = _array(arguments[0], frame)
    parts, owner = lists.flatten(), owners(lists)
    keep = np.ones(len(parts), np.bool_)
    for argument in arguments[1:]:
        unwanted = _array(argument, frame).take(from_numpy(owner))
        keep &= ~np.asarray(pc.fill_null(pc.equal(parts, unwanted), False))
    return Value(regrouped(lists, parts.filter(from_numpy(keep)), owner[keep]))


def _item(arguments: Sequence[Argument], frame: Frame) -> Value:
    return on_texts(arguments[0], [arguments[1]], nth, frame, ValueType.TEXT)


def _size(arguments: Sequence[Argument], frame: Frame) -> Value:
    return Value(pc.cast(pc.list_value_length(_array(arguments[0], frame)), pa.int64()))


FUNCTIONS = (
    Function(
        "split",
        (Parameter("text"), Parameter("delimiter", pattern=True)),
        ValueType.LIST,
        "The parts of a delimited text as a list; white space and empty parts stay.",
        (('size(split("ash;;celadon", ";"))', "3"),),
        _split,
    ),
    Function(
        "joined",
        (PARTS, Parameter("separator")),
        ValueType.TEXT,
        "The parts of a list as one text, with a separator between them. Parts that are null are skipped.",
        ((f'joined({GLAZES}, " + ")', "ash + celadon + ash"),),
        _joined,
    ),
    Function(
        "unique",
        (PARTS,),
        ValueType.LIST,
        "Each different part once, where it is first.",
        ((f'joined(unique({GLAZES}), "; ")', "ash; celadon"),),
        _unique,
    ),
    Function(
        "sorted",
        (PARTS,),
        ValueType.LIST,
        "The parts in ascending order of their characters.",
        ((f'joined(sorted({GLAZES}), "; ")', "ash; ash; celadon"),),
        _sorted,
    ),
    Function(
        "without",
        (PARTS, Parameter("text", repeated=True)),
        ValueType.LIST,
        "The list without the parts that are these texts.",
        ((f'joined(without({GLAZES}, "ash"), "; ")', "celadon"),),
        _without,
    ),
    Function(
        "item",
        (PARTS, Parameter("n", INTEGER, counts=Counts.PLACE)),
        ValueType.TEXT,
        "The n-th part, from 1, or from the end with a negative n. Null where there are fewer.",
        ((f"item({GLAZES}, 2)", "celadon"), (f"item({GLAZES}, 4)", "null")),
        _item,
    ),
    Function(
        "size",
        (PARTS,),
        ValueType.INTEGER,
        "How many parts the list has.",
        ((f"size({GLAZES})", "3"),),
        _size,
    ),
)
