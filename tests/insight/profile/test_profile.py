"""What a profile says of the sample's extracts and of columns in a file."""

from __future__ import annotations

import csv
from pathlib import Path

import pyarrow as pa
import pytest

from mangler.insight.columns.counting import count_columns
from mangler.insight.columns.finding import Kind
from mangler.insight.profile.profile import ColumnProfile, Profile, profile_file, profile_of
from mangler.insight.profile.profile_json import to_json
from mangler.language.mistake import Refusal
from mangler.recipes.options import column_list
from mangler.sample.generate import EXTRACTS, write_extract
from mangler.table.settings import ReadSettings


@pytest.fixture(scope="module")
def extract(tmp_path_factory) -> Path:
    path = tmp_path_factory.mktemp("sample") / "week.csv"
    write_extract(path, EXTRACTS[1], 400)
    return path


@pytest.fixture(scope="module")
def sample(extract: Path) -> Profile:
    return profile_file(str(extract), ReadSettings())


def column(profile: Profile, name: str) -> ColumnProfile:
    return next(one for one in profile.columns if one.name == name)


def of(*cells: str | None) -> ColumnProfile:
    """The profile of one column."""
    columns = {"a": pa.array(cells, pa.string())}
    return profile_of(count_columns("cells", columns)).columns[0]


def steps(profile: ColumnProfile, sure: bool) -> list[str]:
    return [proposal.step for proposal in profile.proposals if proposal.sure is sure]


def found(profile: ColumnProfile, kind: Kind) -> int:
    return sum(finding.cells for finding in profile.findings if finding.kind is kind)


def test_counts_are_those_of_the_file(extract: Path, sample: Profile):
    with extract.open(encoding="utf-8", newline="") as file:
        rows = list(csv.DictReader(file, delimiter=";"))
    assert sample.rows == len(rows) == 400
    for one in sample.columns:
        cells = [row[one.name] for row in rows]
        assert one.facts.nulls == cells.count("")
        assert one.distinct == len(set(cells) - {""})
        assert one.frequent[0][1] == max(cells.count(cell) for cell in set(cells) - {""})
    results = [row["result"] for row in rows]
    assert found(column(sample, "result"), Kind.NULL_WORDS) == sum(c in ("-", "n/a", "N/A") for c in results)
    contacts = [row["contacts"] for row in rows if row["contacts"]]
    listed = column(sample, "contacts").listed
    assert listed is not None
    assert (listed.least, listed.most) == (1, max(cell.count(";") + 1 for cell in contacts))


def test_the_log_is_seen_as_a_person_sees_it(sample: Profile):
    looks = {one.name: one.looks for one in sample.columns}
    assert looks == {
        "kiln": "text", "studio": "text", "potter": "text", "contacts": "list", "fired_at": "timestamp",
        "cone": "text", "peak_c": "integer", "pieces": "list of pairs", "glazes": "list", "shelf": "list",
        "result": "text", "notes": "text",
    }  # fmt: skip
    assert steps(column(sample, "peak_c"), True) == [
        "trim peak_c squeeze",
        'nullify "tbc" in peak_c anycase',
        'convert peak_c to integer grouping "." without "°C"',
    ]
    assert 'replace "temoku" with "tenmoku" in glazes anycase' in steps(column(sample, "glazes"), False)
    assert steps(column(sample, "fired_at"), True) == [
        'convert fired_at to timestamp written "%Y-%m-%d %H:%M", "%d/%m/%Y %H:%M"'
    ]
    for name in ("kiln", "cone"):
        assert [finding.kind for finding in column(sample, name).findings] == [Kind.LEADING_ZEROS]
        assert column(sample, name).proposals == []


def test_the_worst_comes_first(sample: Profile):
    harms = [one.harm for one in sample.worst_first]
    assert harms == sorted(harms, reverse=True)
    assert {one.name for one in sample.worst_first[-3:]} == {"kiln", "potter", "cone"}


def test_nothing_depends_on_the_size_of_blocks(extract: Path, sample: Profile):
    small = profile_file(str(extract), ReadSettings(), partition_size=700)
    assert to_json(small) == to_json(sample)


def test_only_the_columns_that_are_named(extract: Path):
    profile = profile_file(str(extract), ReadSettings(), column_list("result, kiln"))
    assert [one.name for one in profile.columns] == ["kiln", "result"]
    assert len(profile.all_names) == 12
    with pytest.raises(Refusal, match='no column "reslt"'):
        profile_file(str(extract), ReadSettings(), column_list("reslt"))


def test_cells_reported_are_those_that_the_step_changes():
    profile = of(*["Clay Works"] * 7, *[" clay works"] * 3, "Clay  Works", None)
    assert [(one.step, one.cells) for one in profile.proposals] == [
        ("trim a squeeze", 4),
        ('replace "Clay Works" with "Clay Works" in a anycase whole', 3),
    ]


@pytest.mark.parametrize(
    ("cells", "step"),
    [
        (["1,5", "12,25", "3"], 'convert a to decimal point ","'),
        (["1.234,5", "12,25", "3"], 'convert a to decimal grouping "."'),
        (["1,234", "12,345,678", "3"], 'convert a to integer grouping ","'),
        (["1 234", "12 345", "300"], 'convert a to integer grouping " "'),
        (["12 kg", "7 kg", "30.5 kg"], 'convert a to decimal without "kg"'),
        (["-5", "+7", "0"], "convert a to integer"),
        (["1e3", "2.5e-7", "12"], "convert a to float"),
        (["2026-05-04", "2026-05-11"], "convert a to date"),
        (["31/05/2026", "04/05/2026"], 'convert a to date written "%d/%m/%Y"'),
        (["05/31/2026", "05/04/2026"], 'convert a to date written "%m/%d/%Y"'),
        (["20260504", "20260531"], 'convert a to date written "%Y%m%d"'),
        (["4 May 2026", "31 Aug 2026"], 'convert a to date written "%d %b %Y"'),
        (["9:30", "12:05"], 'convert a to time written "%H:%M"'),
        (["09:30", "12:05"], "convert a to time"),
        (["2026-05-04T09:30:00Z", "2026-05-04T12:00:00+00:00"], 'convert a to timestamp zone "UTC"'),
        (["2026-05-04T09:30:00+0200", "2026-05-04T12:00:00+02:00"], 'convert a to timestamp zone "+02:00"'),
        (["yes", "No", "yes"], 'convert a to boolean true "yes" false "no" anycase'),
        (["true", "false", "true"], "convert a to boolean"),
    ],
)
def test_conversions(cells, step):
    assert steps(of(*cells, *cells), True) == [step]


def test_an_exponent_leaves_no_doubt_about_the_point():
    assert steps(of(*(f"{n}.302e-01" for n in range(1, 9))), sure=True) == ["convert a to float"]


@pytest.mark.parametrize(
    ("cells", "question"),
    [
        (["1.222", "3.405", "2.111"], "Is 1.222 1.222, or 1222?"),
        (["04/05/2026", "07/08/2026"], "Day or month first in"),
        (["31/05/2026", "05/31/2026", "30/04/2026", "04/30/2026"], "Day and month are in both orders"),
        (["12 kg", "7 g", "30 kg", "9 g"], "Which unit is meant? kg 4, g 4"),
        (["5 k", "12 k", "7 k"], "Does k mean thousands or the like?"),
        (["2026-05-04T09:30:00Z", "2026-05-04T12:00:00+02:00"], "Their offsets differ: +00:00, +02:00"),
        (["04.05.57", "31.05.49"], "In which century is 04.05.57?"),
        (["<12", "7", "30", "<9"], "What does < beside a number mean"),
        (["(45)", "30", "7", "12"], "Does a number in brackets mean one below zero"),
        (["1,25", "1.25", "3.5"], "Do 1,25 and 1.25 have the same mark"),
        (["10115", "20095", "30159", "40213", "50667"], "Are these numbers, or codes that nobody adds up?"),
        (["2026-05-04 09:30", "2026-05-04"], "Some have a time of day and some have none"),
    ],
)
def test_what_a_person_must_decide_is_asked(cells, question):
    profile = of(*cells, *cells)
    assert steps(profile, True) == [] != steps(profile, False)
    asked = {finding.question for finding in profile.findings if finding.question}
    assert len(asked) == 1 and asked.pop().startswith(question)
    assert all(proposal.question.startswith(question) for proposal in profile.proposals)


def test_ambiguous_dates_have_a_step_for_either_order():
    profile = of(*[f"{day:02}/0{month}/2026" for day in range(1, 13) for month in (3, 4)])
    assert steps(profile, False) == [
        'convert a to date written "%d/%m/%Y"',
        'convert a to date written "%m/%d/%Y"',
    ]


def test_other_dates_tell_which_of_day_and_month_comes_first():
    profile = of("2026-05-03", "2026-05-04", "2026-05-05", "06/05/2026", "07/05/2026")
    assert steps(profile, True) == ['convert a to date written "%Y-%m-%d", "%d/%m/%Y"']
    profile = of("2026-05-03", "2026-05-04", "2026-05-05", "05/06/2026", "05/07/2026")
    assert steps(profile, True) == ['convert a to date written "%Y-%m-%d", "%m/%d/%Y"']


def test_values_of_another_size_tell_a_point_from_grouping():
    assert steps(of("1222", "1.222", "998", "1.060"), True) == ['convert a to integer grouping "."']
    assert steps(of("1", "1.222", "2", "1.060"), True) == ["convert a to decimal"]


def test_a_value_that_does_not_fit_is_reported_and_set_aside():
    profile = of(*map(str, range(10, 60)), "about 12")
    [numbers] = profile.findings
    assert "about 12" in numbers.message
    assert steps(profile, False) == ["convert a to integer failures aside"]
    assert profile.proposals[0].failing == 1


def test_a_far_number_is_asked_about_and_the_figures_are_there():
    profile = of(*map(str, range(1200, 1260)), "12222")
    assert found(profile, Kind.OUTLIERS) == 1
    assert profile.numbers is not None
    assert profile.numbers.numbers.most == 12_222
    assert profile.numbers.numbers.median == 1230


def test_names_with_blanks_and_marks_are_spelled_in_steps():
    columns = {"Fired at?": pa.array([" x", "y"]), "a]b": pa.array(["n/a", "kept"])}
    profile = profile_of(count_columns("cells", columns))
    assert [one.proposals[0].step for one in profile.columns] == [
        "trim [Fired at?]",
        'nullify "n/a" in [a]]b] anycase',
    ]


def test_empty_tables_have_columns_and_no_findings():
    profile = profile_of(
        count_columns("cells", {"a": pa.array([], pa.string()), "b": pa.array([], pa.string())})
    )
    assert [(one.name, one.looks, one.findings) for one in profile.columns] == [
        ("a", "nothing", []),
        ("b", "nothing", []),
    ]
    nulls = of(None, None)
    assert (nulls.looks, nulls.facts.nulls, nulls.distinct) == ("nothing", 2, 0)


def test_a_column_of_very_many_values_is_sampled_and_says_so(monkeypatch):
    monkeypatch.setattr("mangler.insight.columns.counting.bound_for", lambda _: 1_000)
    cells = pa.array([f"{'bowl' if n % 3 else 'vase'}={n}; lid=1" for n in range(20_000)])
    [profile] = profile_of(count_columns("cells", {"a": cells})).columns
    assert not profile.distinct_is_exact
    assert abs(profile.distinct - 20_000) < 4_000
    lists = next(finding for finding in profile.findings if finding.kind is Kind.LISTS)
    assert lists.cells == 20_000 and not lists.about
    assert [proposal.about for proposal in profile.proposals] == [True] * len(steps(profile, False)) != []


def test_numbers_that_no_float_can_hold_are_reported_and_not_counted():
    profile = of(*map(str, range(10, 40)), "1e400")
    assert profile.numbers is not None and profile.numbers.numbers.most == 39
    assert "1e400" in profile.findings[0].message
    assert of("1e400", "2e400", "5").numbers is None


def test_noughts_beside_marks_do_not_upset_the_choice_of_the_mark():
    assert steps(of("0.000", "0.000", "5", "6"), True) == ["convert a to decimal"]
    assert of("-1.", "1,5").proposals == []


def test_a_column_of_many_values_that_are_all_known_is_reported_exactly():
    profile = of(*(f"{n}.5" for n in range(30_000)))
    [proposal] = profile.proposals
    assert (proposal.step, proposal.cells, proposal.about) == ("convert a to decimal", 30_000, False)
