"""`keyed_hash`: a value that tells equal ones from different ones, and nothing else."""

from __future__ import annotations

import hmac
from collections.abc import Sequence

import pyarrow as pa

from mangler.expressions.function import TEXT, Argument, Function, Parameter
from mangler.expressions.value import Frame, Value
from mangler.table.schema import ValueType


def _keyed_hash(arguments: Sequence[Argument], frame: Frame) -> Value:
    texts, keys = (Value(argument).array(frame.count) for argument in arguments)
    pairs = pa.StructArray.from_arrays([texts, keys], names=["text", "key"])
    known: dict[tuple[str, str], str] = {}
    out: list[str | None] = []
    for pair in pairs.to_pylist():
        text, key = pair["text"], pair["key"]
        if text is None or key is None:
            out.append(None)
            continue
        if (text, key) not in known:
            known[text, key] = hmac.digest(key.encode(), text.encode(), "sha256").hex()
        out.append(known[text, key])
    return Value(pa.array(out, pa.string()))


FUNCTIONS = (
    Function(
        "keyed_hash",
        (Parameter("text", TEXT), Parameter("key", TEXT)),
        ValueType.TEXT,
        "A code of 64 characters in the place of a text: the HMAC with SHA-256, in hexadecimal. Equal texts have equal"
        " codes under one key; without the key the text cannot be recovered. The key is best a secret parameter:"
        ' parameter salt from environment "SALT".',
        (
            (
                'keyed_hash("Tove Aslan", "k")',
                hmac.digest(b"k", b"Tove Aslan", "sha256").hex(),
            ),
        ),
        _keyed_hash,
    ),
)
