"""Ordinary weeks of unlike processes bring no finding, and each planted change brings one, with its cause."""

from __future__ import annotations

import pytest
from tests.insight.drift.measure import is_found, planted_week, taken
from tests.insight.drift.planted import PLANTED, Planted
from tests.insight.drift.processes import PROCESSES, Process

from mangler.insight.fingerprint.change import Change
from mangler.insight.fingerprint.drift import drift_of
from mangler.insight.fingerprint.fingerprint import Fingerprint

ROWS, WEEKS = 100, 12
Seen = dict[str, list[Fingerprint]]


@pytest.fixture(scope="module")
def seen() -> Seen:
    return {one.name: [taken(one.week(week, ROWS)) for week in range(WEEKS)] for one in PROCESSES}


@pytest.mark.parametrize("process", PROCESSES, ids=lambda one: one.name)
def test_ordinary_weeks_bring_no_finding(process: Process, seen: Seen) -> None:
    weeks = seen[process.name]
    for week in range(2, WEEKS):
        assert drift_of(weeks[week], weeks[max(0, week - 5) : week][::-1]) == []


@pytest.mark.parametrize("planted", PLANTED, ids=lambda one: one.name)
def test_a_planted_change_is_one_finding_with_its_cause(planted: Planted, seen: Seen) -> None:
    for process in PROCESSES:
        if process.name in planted.ordinary_in:
            continue
        now = planted_week(process, 10, ROWS, planted)
        for earlier in (2, 5):
            found = drift_of(now, seen[process.name][10 - earlier : 10][::-1])
            assert is_found(found, planted, process), (process.name, earlier, found)


def planted(name: str, process: Process, seen: Seen) -> str:
    [change] = [one for one in PLANTED if one.name == name]
    [drift] = drift_of(planted_week(process, 10, ROWS, change), seen[process.name][5:10][::-1])
    return drift.message


def test_a_change_of_form_names_both_and_the_clause_that_reads_it(seen: Seen) -> None:
    parcels = PROCESSES[0]
    assert planted("decimal commas", parcels, seen).endswith('point "," reads them')
    assert planted("a unit behind numbers", parcels, seen).endswith('without "kg" reads them')
    assert planted("marks between thousands", parcels, seen).endswith('grouping "," reads them')
    message = planted("another date form", parcels, seen)
    assert 'written as "16.03.2026", and they were as "2026-02-09"; written "%d.%m.%Y" reads them' in message


def test_one_cause_in_several_columns_is_one_finding(seen: Seen) -> None:
    process = PROCESSES[1]
    table = process.week(10, ROWS)
    for name in ("degrees", "rain_mm"):
        table[name] = [cell.replace(".", ",") if cell else cell for cell in table[name]]
    [drift] = drift_of(taken(table), seen[process.name][5:10][::-1])
    assert drift.change is Change.WRITTEN and drift.columns == ("degrees", "rain_mm")
    assert drift.message.endswith("; alike in rain_mm")


def test_what_an_older_history_did_not_count_is_not_compared(seen: Seen) -> None:
    process = PROCESSES[0]
    old = []
    for one in seen[process.name][5:10]:
        told = one.to_json()
        for key in ("quoting", "follows"):
            told.pop(key)
        for column in told["columns"]:
            for key in ("spaced", "forms", "repeats", "total"):
                column.pop(key)
        old.append(Fingerprint.of_json(told))
    assert drift_of(seen[process.name][10], old[::-1]) == []
    [spaces] = [one for one in PLANTED if one.name == "spaces behind words"]
    assert drift_of(planted_week(process, 10, ROWS, spaces), old[::-1]) == []
