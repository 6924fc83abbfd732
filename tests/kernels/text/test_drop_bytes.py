from __future__ import annotations

import pyarrow as pa
import pyarrow.compute as pc
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.kernels.arrays import COLUMNS, layouts

from mangler.kernels.text.drop_bytes import drop
from mangler.steps.shared.characters import CLASSES


@pytest.mark.parametrize("keeps", ["^", ""])
@given(COLUMNS, st.sampled_from(list(CLASSES)))
def test_dropping_is_what_the_pattern_replaces(keeps: str, cells: list[str | None], name: str) -> None:
    pattern = f"[{keeps}{CLASSES[name]}]+"
    expected = pc.replace_substring_regex(
        pa.array(cells, pa.string()), pattern=pattern, replacement=""
    ).to_pylist()
    for array in layouts(cells):
        out, changed = drop(array, pattern)
        out.validate(full=True)
        assert out.to_pylist() == expected
        assert changed.tolist() == [one != other for one, other in zip(cells, expected, strict=True)]
        assert changed.any() or out is array
