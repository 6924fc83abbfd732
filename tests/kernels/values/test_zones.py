from __future__ import annotations

import datetime
from zoneinfo import ZoneInfo

import pyarrow as pa
import pytest
from hypothesis import given
from hypothesis import strategies as st

from mangler.kernels.values.zones import in_zone, is_zone, without_offsets

ZONES = ("Europe/Paris", "Asia/Kolkata", "America/New_York", "UTC")


@pytest.mark.parametrize(
    ("text", "local", "offset"),
    [
        ("2026-05-04 09:30Z", "2026-05-04 09:30", 0),
        ("2026-05-04T09:30:15.5+02:00", "2026-05-04T09:30:15.5", 120),
        ("09:30 -0230", "09:30", -150),
        (" 2026-05-04 09:30 ", "2026-05-04 09:30", None),
        ("2026-05-04", "2026-05-04", None),
        ("04-05-2026", "04-05-2026", None),
        ("noon Z", "noon Z", None),
        (None, None, None),
    ],
)
def test_offsets_come_off_times_alone(text: str | None, local: str | None, offset: int | None) -> None:
    texts, offsets = without_offsets(pa.array([text, "x"], pa.string()))
    assert (texts.to_pylist(), offsets.to_pylist()) == ([local, "x"], [offset, None])


@given(
    st.lists(
        st.none() | st.datetimes(datetime.datetime(1990, 1, 1), datetime.datetime(2035, 1, 1)), max_size=6
    ),
    st.sampled_from(ZONES),
)
def test_the_zones_clock_is_that_of_python(times: list[datetime.datetime | None], zone: str) -> None:
    """A time that the clock shows twice, or never, is one that means different moments at its two folds."""
    clock = ZoneInfo(zone)
    done = in_zone(pa.array(times, pa.timestamp("us")), pa.nulls(len(times), pa.int64()), zone)
    for time, moment, failed in zip(times, done.array.to_pylist(), done.failed, strict=True):
        if time is None:
            assert moment is None and not failed
            continue
        early, late = (time.replace(tzinfo=clock, fold=fold).astimezone(datetime.UTC) for fold in (0, 1))
        assert failed == (early != late)
        assert moment is None if failed else moment.astimezone(datetime.UTC) == early


@given(st.datetimes(datetime.datetime(1990, 1, 1), datetime.datetime(2035, 1, 1)), st.integers(-720, 720))
def test_an_offset_of_its_own_is_kept_to(time: datetime.datetime, minutes: int) -> None:
    done = in_zone(pa.array([time], pa.timestamp("us")), pa.array([minutes]), "Europe/Paris")
    own = datetime.timezone(datetime.timedelta(minutes=minutes))
    assert not done.failed[0]
    assert done.array[0].as_py().astimezone(datetime.UTC) == time.replace(tzinfo=own).astimezone(datetime.UTC)


def test_names_of_zones() -> None:
    assert all(map(is_zone, ZONES)) and is_zone("+02:00")
    assert not is_zone("Europe/Pariss") and not is_zone("")
