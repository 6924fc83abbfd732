"""Types of PostgreSQL as Arrow's, and back. What has no exact type in Arrow is a text, or refused by name."""

from __future__ import annotations

from typing import Any

import numpy as np
import pyarrow as pa

from mangler.formats.database.trouble import no_place
from mangler.kernels.arrow import ColumnArray
from mangler.language.mistake import extract_does_not_fit
from mangler.late_dataclass import dataclass
from mangler.table.stored_types import is_json

PLAIN = {
    "bool": pa.bool_(),
    "int2": pa.int16(),
    "int4": pa.int32(),
    "int8": pa.int64(),
    "float4": pa.float32(),
    "float8": pa.float64(),
    "text": pa.string(),
    "varchar": pa.string(),
    "bpchar": pa.string(),
    "name": pa.string(),
    "date": pa.date32(),
    "time": pa.time64("us"),
    "timestamp": pa.timestamp("us"),
    "timestamptz": pa.timestamp("us", "UTC"),
    "bytea": pa.binary(),
}
ARRAY = "_"
"""In front of the names of types of arrays."""
ELEMENTS = ("int2", "int4", "int8", "float8", "bool", "text", "varchar")
LONGEST_DECIMAL = 38
FIRST_DAY, LAST_DAY = -719_162, 2_932_896
"""Days of the years 1 and 9999. Infinite dates, which PostgreSQL has and Arrow has not, are beyond."""
A_DAY = 86_400_000_000


@dataclass(frozen=True)
class FieldKind:
    """How a column is read. `told` names the server's type where it is read as text."""

    type: Any
    by_server: bool = False
    """Whether the server makes texts of the values."""
    told: str = ""


def field_kind(field: Any) -> FieldKind:
    """How a column of a query is read that the driver describes so."""
    metadata = {key.decode(): value.decode() for key, value in (field.metadata or {}).items()}
    name = metadata.get("POSTGRESQL:type", "")
    if name in PLAIN:
        return FieldKind(PLAIN[name])
    if name in ("json", "jsonb"):
        return FieldKind(pa.json_(pa.string()))
    if name == "numeric":
        return _numeric(int(metadata.get("POSTGRESQL:typmod", -1)))
    if name.startswith(ARRAY) and name[1:] in ELEMENTS:
        return FieldKind(pa.list_(PLAIN[name[1:]]))
    return FieldKind(pa.string(), True, name or str(field.type))


def _numeric(modifier: int) -> FieldKind:
    """A number with places is a decimal; without, each value has places of its own, which a text keeps."""
    if modifier >= 4:
        digits, places = (modifier - 4) >> 16, (modifier - 4) & 0x7FF
        if digits <= LONGEST_DECIMAL and places <= digits:
            return FieldKind(pa.decimal128(digits, places))
    return FieldKind(pa.string(), False, "numeric")


def fitted(column: ColumnArray, field: Any, name: str) -> ColumnArray:
    """A column as it came, in the type that it is read in. What would be altered is refused."""
    kind = field.type
    if pa.types.is_date32(kind):
        _refuse_infinite(np.asarray(column.drop_null().view(pa.int32())), 1, field.name, "date", name)
    elif pa.types.is_timestamp(kind):
        _refuse_infinite(
            np.asarray(column.drop_null().view(pa.int64())), A_DAY, field.name, "timestamp", name
        )
    if isinstance(column.type, pa.BaseExtensionType) and not is_json(column.type):
        column = column.storage
    if column.type == kind:
        return column
    try:
        return column.cast(kind)
    except pa.ArrowInvalid:
        raise extract_does_not_fit(
            "mixed-types",
            f'{name}: the column "{field.name}" is numeric, and holds a value that is no number of its places (NaN?)',
            f"Read it as text: read query with {field.name}::text.",
        ) from None


def _refuse_infinite(numbers: Any, a_day: int, column: str, kind: str, name: str) -> None:
    if not len(numbers):
        return
    least, most = int(numbers.min()), int(numbers.max())
    if least < FIRST_DAY * a_day or most >= (LAST_DAY + 1) * a_day:
        raise extract_does_not_fit(
            "mixed-types",
            f'{name}: the column "{column}" holds a {kind} that is infinite, or in no year from 1 to 9999',
            f"Read it as text: read query with {column}::text.",
        )


def declared(column: Any, place: str) -> str:
    """The type of a new table's column."""
    kind = column.type
    found = next((name for is_such, name in _DECLARED if is_such(kind)), "")
    if found:
        return found
    if pa.types.is_decimal(kind):
        return f"numeric({kind.precision}, {kind.scale})"
    if pa.types.is_timestamp(kind):
        return "timestamp" if kind.tz is None else "timestamptz"
    if pa.types.is_dictionary(kind):
        return declared(pa.field(column.name, kind.value_type), place)
    if (pa.types.is_list(kind) or pa.types.is_large_list(kind)) and not pa.types.is_nested(kind.value_type):
        return f"{declared(pa.field(column.name, kind.value_type), place)}[]"
    raise no_place(place, column.name, str(kind), "has no type for it", "Convert it to text, or drop it.")


_DECLARED = (
    (is_json, "json"),
    (pa.types.is_boolean, "boolean"),
    (pa.types.is_int8, "smallint"),
    (pa.types.is_uint8, "smallint"),
    (pa.types.is_int16, "smallint"),
    (pa.types.is_uint16, "integer"),
    (pa.types.is_int32, "integer"),
    (pa.types.is_uint32, "bigint"),
    (pa.types.is_int64, "bigint"),
    (pa.types.is_uint64, "numeric(20, 0)"),
    (pa.types.is_float16, "real"),
    (pa.types.is_float32, "real"),
    (pa.types.is_float64, "double precision"),
    (pa.types.is_string, "text"),
    (pa.types.is_large_string, "text"),
    (pa.types.is_string_view, "text"),
    (pa.types.is_null, "text"),
    (pa.types.is_date, "date"),
    (pa.types.is_time, "time"),
    (pa.types.is_binary, "bytea"),
    (pa.types.is_large_binary, "bytea"),
)
SENT = {
    "smallint": pa.int16(),
    "integer": pa.int32(),
    "bigint": pa.int64(),
    "real": pa.float32(),
    "double precision": pa.float64(),
    "text": pa.string(),
    "boolean": pa.bool_(),
    "date": pa.date32(),
    "time": pa.time64("us"),
    "timestamp": pa.timestamp("us"),
    "timestamptz": pa.timestamp("us", "UTC"),
    "bytea": pa.binary(),
    "json": pa.string(),
}
"""The types in which columns are sent that are declared so."""


def sent_type(kind: str) -> Any:
    if kind.endswith("[]"):
        return pa.list_(sent_type(kind[:-2]))
    if kind.startswith("numeric"):
        digits, places = kind[len("numeric(") : -1].split(", ")
        return pa.decimal128(int(digits), int(places))
    return SENT[kind]


TAKES = {
    "smallint": ("int2", "int4", "int8", "numeric"),
    "integer": ("int4", "int8", "numeric", "int2"),
    "bigint": ("int8", "numeric", "int4", "int2"),
    "real": ("float4", "float8"),
    "double precision": ("float8",),
    "text": ("text", "varchar", "bpchar", "name", "citext"),
    "boolean": ("bool",),
    "date": ("date",),
    "time": ("time",),
    "timestamp": ("timestamp",),
    "timestamptz": ("timestamptz",),
    "bytea": ("bytea",),
    "json": ("json", "jsonb"),
}
"""Types of columns of a table that is there, for each type of ours that they take as it is."""
SPELLED = ("uuid", "json", "jsonb", "interval", "inet", "cidr", "macaddr", "xml", "time", "timetz")
"""Types that take a text which spells one of their values, or refuse it."""


def taken_as(kind: str, target: str, modifier: int, is_enum: bool) -> str | None:
    """How a value of ours goes into a column: empty as it is, or by this cast; None where it would be altered."""
    if kind.startswith("numeric"):
        if target != "numeric":
            return None
        places = int(kind[len("numeric(") : -1].split(", ")[1])
        return "" if modifier < 4 or (modifier - 4) & 0x7FF >= places else None
    if kind.endswith("[]"):
        return "" if target == ARRAY + TAKES[kind[:-2]][0] else None
    if target in TAKES[kind]:
        return "cast" if kind == "json" else ""
    if kind == "text" and (target in SPELLED or is_enum):
        return "cast"
    return None
