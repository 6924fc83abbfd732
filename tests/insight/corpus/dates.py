"""Text that is really dates, times, or true and false."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime, timedelta

from tests.insight.corpus.specimen import Sheet, Specimen, alone, seeded, some, specimen, spoilt, with_nulls

from mangler.insight.columns.finding import Kind

DATES, BOOLEANS = Kind.DATES, Kind.BOOLEANS


def moments(name: str, count: int, days: int = 300) -> list[datetime]:
    random = seeded(name)
    return [datetime(2026, 1, 1) + timedelta(minutes=random.randrange(days * 1440)) for _ in range(count)]


def _written(name: str, form: str, count: int = 60, days: int = 300) -> list[str]:
    return [moment.strftime(form) for moment in moments(name, count, days)]


def _in_turn(name: str, *forms: str, days: int = 300) -> list[str]:
    return [moment.strftime(forms[i % len(forms)]) for i, moment in enumerate(moments(name, 60, days))]


def sheets() -> list[Sheet]:
    return alone([*_dates(), *_times(), *_booleans()])


def _dates() -> list[Specimen]:
    def bare(change: Callable[[datetime], str], name: str) -> list[str]:
        return [change(moment) for moment in moments(name, 50)]

    return [
        specimen("ISO", _written("a", "%Y-%m-%d"), DATES),
        specimen("slashes, day first", _written("b", "%d/%m/%Y"), DATES),
        specimen("slashes, month first", _written("c", "%m/%d/%Y"), DATES),
        specimen("points", _written("d", "%d.%m.%Y"), DATES),
        specimen("two digits of the year", _written("e", "%d.%m.%y"), DATES),
        specimen("named months", _written("f", "%d %b %Y"), DATES),
        specimen("months in full", _written("g", "%d %B %Y"), DATES),
        specimen("month before day", _written("h", "%b %d, %Y"), DATES),
        specimen("compact", _written("i", "%Y%m%d"), DATES),
        specimen("year first, slashes", _written("j", "%Y/%m/%d"), DATES),
        specimen("no zeros", bare(lambda m: f"{m.day}/{m.month}/{m.year}", "k"), DATES),
        specimen("ambiguous", [f"{d:02}/0{m}/2026" for d in range(1, 13) for m in (3, 4, 5)], DATES),
        specimen("two forms", _in_turn("l", "%Y-%m-%d", "%d/%m/%Y"), DATES),
        specimen("two forms in a week", _in_turn("m", "%Y-%m-%d", "%d/%m/%Y", days=7), DATES),
        specimen("three forms", _in_turn("n", "%Y-%m-%d", "%d.%m.%Y", "%d %b %Y"), DATES),
        specimen("both orders", _in_turn("o", "%d/%m/%Y", "%m/%d/%Y"), DATES),
        specimen("with nulls", with_nulls("p", _written("p", "%Y-%m-%d"), 0.3), DATES),
        specimen("one that does not exist", [*_written("q", "%Y-%m-%d"), "2026-02-30"], DATES),
        specimen("a word among them", [*_written("r", "%d/%m/%Y"), "early May"], DATES),
        specimen(
            "trimmed it is a date",
            spoilt("s", _written("s", "%Y-%m-%d"), 0.2, lambda c: f" {c}"),
            DATES,
            Kind.OUTER_SPACE,
        ),
        specimen("hyphens, month named", _written("t", "%d-%b-%Y"), DATES),
        specimen("weekday before", _written("u", "%a, %d %b %Y"), DATES),
        specimen("three rows", ["2026-05-04", "2026-05-05", "2026-05-11"], DATES),
    ]


def _times() -> list[Specimen]:
    return [
        specimen("times", _written("v", "%H:%M"), DATES),
        specimen("seconds", _written("w", "%H:%M:%S"), DATES),
        specimen("halves of the day", _written("x", "%I:%M %p"), DATES),
        specimen("date and time", _written("y", "%Y-%m-%d %H:%M"), DATES),
        specimen("ISO date and time", _written("z", "%Y-%m-%dT%H:%M:%S"), DATES),
        specimen("with zone", [f"{moment:%Y-%m-%dT%H:%M:%S}Z" for moment in moments("za", 40)], DATES),
        specimen("with offset", [f"{moment:%Y-%m-%dT%H:%M:%S}+02:00" for moment in moments("zb", 40)], DATES),
        specimen("as in the log", _in_turn("zc", "%Y-%m-%d %H:%M", "%d/%m/%Y %H:%M", days=7), DATES),
        specimen("some with a time", _in_turn("zd", "%Y-%m-%d %H:%M", "%Y-%m-%d"), DATES),
        specimen("month first and halves", _written("ze", "%m/%d/%Y %I:%M %p"), DATES),
    ]


def _booleans() -> list[Specimen]:
    return [
        specimen("yes and no", some("b1", ("yes", "no"), 60), BOOLEANS),
        specimen("Yes and No", some("b2", ("Yes", "No"), 60), BOOLEANS),
        specimen("y and n", some("b3", ("y", "n"), 40), BOOLEANS),
        specimen("Y and N", some("b4", ("Y", "N"), 40), BOOLEANS),
        specimen("true and false", some("b5", ("true", "false"), 40), BOOLEANS),
        specimen("TRUE and FALSE", some("b6", ("TRUE", "FALSE"), 40), BOOLEANS),
        specimen("German", some("b7", ("ja", "nein"), 40), BOOLEANS),
        specimen("French", some("b8", ("oui", "non"), 40), BOOLEANS),
        specimen("several ways", some("b9", ("yes", "no", "Y", "N"), 80), BOOLEANS),
        specimen("on and off", some("b10", ("on", "off"), 40), BOOLEANS),
        specimen("noughts and ones", some("b11", ("0", "1"), 40), BOOLEANS),
        specimen("with nulls", with_nulls("b12", some("b12", ("yes", "no"), 60), 0.2), BOOLEANS),
        specimen(
            "and a null word", [*some("b13", ("yes", "no"), 60), "n/a", "n/a"], BOOLEANS, Kind.NULL_WORDS
        ),
        specimen("yes, no, maybe", some("b14", ("yes", "no", "maybe"), 60)),
        specimen("only yes", ["yes"] * 30),
    ]
