"""Columns of NumPy's values, against Arrow's own."""

from __future__ import annotations

import numpy as np
import pyarrow as pa
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from mangler.kernels.arrow import from_numpy

TYPES = st.sampled_from([np.bool_, np.int8, np.int32, np.int64, np.uint64, np.float64])


@given(st.data(), TYPES, st.integers(0, 40), st.integers(1, 3))
def test_columns_are_those_that_arrow_makes(data: st.DataObject, kind: type, count: int, step: int) -> None:
    values = data.draw(arrays(kind, count))[::step]
    nulls = data.draw(arrays(np.bool_, count))[::step]
    assert from_numpy(values).equals(pa.array(values)) or np.isnan(values).any()
    column = from_numpy(values, nulls=nulls)
    column.validate(full=True)
    assert column.type == pa.array(values).type
    assert column.is_null().to_pylist() == nulls.tolist()
    assert [str(one) for one in column.drop_null().to_pylist()] == [
        str(one) for one in values[~nulls].tolist()
    ]


def test_another_type_of_as_many_bytes() -> None:
    days = from_numpy(np.array([0, 20_000], np.int32), pa.date32())
    assert [str(day) for day in days.to_pylist()] == ["1970-01-01", "2024-10-04"]
    with pytest.raises(TypeError, match="int64 is not kept as date32"):
        from_numpy(np.array([0]), pa.date32())
