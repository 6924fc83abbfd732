"""The account of a run."""

from __future__ import annotations

import json

import pytest

from mangler.engine.run.summary import StepLine, Summary


@pytest.mark.parametrize("seconds", [0.0211499996, 0.0000499999, 0.0994999997, 1.4499999])
def test_times_are_shown_later_as_they_were_shown_first(seconds: float) -> None:
    summary = Summary("r.mangler", "", "a.csv", steps=[StepLine(1, "trim *", seconds=seconds)])
    summary.writing.seconds = summary.setting_aside.seconds = seconds
    summary.stop_clock(seconds)
    kept = json.loads(json.dumps(summary.to_json()))
    assert summary.seconds == pytest.approx(seconds, abs=1e-6)
    later = (
        kept["steps"][0]["seconds"],
        kept["writing"]["seconds"],
        kept["seconds_setting_aside"],
        kept["seconds"],
    )
    lines = (*summary.steps, summary.writing, summary.setting_aside)
    assert later == (*(line.seconds for line in lines), summary.seconds)
    assert all(one == round(one, 6) for one in later)
