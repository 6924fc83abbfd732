"""`json_at` and `json_list` against Python's reader, and texts that are no JSON."""

from __future__ import annotations

import hashlib
import hmac
import json
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.conftest import Refused, Run
from tests.expressions.evaluating import evaluate

VALUES = st.recursive(
    st.none() | st.booleans() | st.integers(-5, 5) | st.text('aé"', max_size=3),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.sampled_from("ab"), inner, max_size=2),
    max_leaves=8,
)
PATHS = st.lists(st.sampled_from(["a", "b", 0, 1]), min_size=1, max_size=3)


def spelled(value: Any) -> Any:
    if value is None or isinstance(value, str):
        return value
    return json.dumps(value, ensure_ascii=False, separators=(",", ":"))


@given(VALUES, PATHS)
def test_what_stands_at_a_place(value: Any, path: list[Any]) -> None:
    text = "".join(f"[{step}]" if isinstance(step, int) else f".{step}" for step in path).removeprefix(".")
    found = value
    for step in path:
        fits = (
            isinstance(found, list) and step < len(found)
            if isinstance(step, int)
            else isinstance(found, dict)
        )
        found = None if not fits else found[step] if isinstance(step, int) else found.get(step)
    cells = [json.dumps(value), None, " "]
    assert evaluate(f"json_at(x, '{text}')", x=cells) == [spelled(found), None, None]
    listed = [spelled(one) for one in found] if isinstance(found, list) else None
    assert evaluate(f"json_list(x, '{text}')", x=cells) == [listed, None, None]


def test_numbers_are_as_they_are_written() -> None:
    text = '{"n": 1.50, "big": 123456789012345678901234567890, "list": [0.10]}'
    assert evaluate("json_at(x, 'n')", x=[text]) == ["1.50"]
    assert evaluate("json_at(x, 'big')", x=[text]) == ["123456789012345678901234567890"]
    assert evaluate("json_at(x, 'list')", x=[text]) == ["[0.10]"]
    assert evaluate("""json_at(x, '["odd.key"][0]')""", x=['{"odd.key": ["y"]}']) == ["y"]


@pytest.mark.parametrize("text", ["{", "[" * 10_000, '{"a": NaN}', '{"a": "\\ud800"}', "soon"])
def test_what_is_no_json_fails(run: Run, text: str) -> None:
    done = run("make y = json_at(x, 'a') failures 'none'", "x\n" + '"' + text.replace('"', '""') + '"\n')
    assert done.table.column("y").to_pylist() == ["none"]


@pytest.mark.parametrize("path", ["a..b", "[x]", ".a", "a[", "a[-1]"])
def test_a_place_is_written_as_one(refused: Refused, path: str) -> None:
    refused(f"make y = json_at(x, '{path}')", "x\n{}\n", "is not a way to a value in JSON")


def test_a_keyed_hash_is_the_standard_one() -> None:
    wanted = hmac.new(b"salt", "Zoë".encode(), hashlib.sha256).hexdigest()
    assert evaluate("keyed_hash(x, 'salt')", x=["Zoë", None, "Zoë"]) == [wanted, None, wanted]
