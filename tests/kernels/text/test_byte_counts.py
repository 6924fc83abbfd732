from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from mangler.kernels.text import byte_counts


@given(st.binary(max_size=40), st.integers(1, 9))
def test_bytes_are_counted_across_stretches(data: bytes, stretch: int) -> None:
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(byte_counts, "STRETCH", stretch)
        assert byte_counts.count_byte(np.frombuffer(data, np.uint8), 10) == data.count(b"\n")
