"""Dates and lists like those of tables that nobody here made."""

from __future__ import annotations

from datetime import date, timedelta
from random import Random

from tests.insight.corpus.kinds import DATES, LISTS, NUMBERS, Pairs
from tests.insight.corpus.specimen import Specimen, meant, specimen
from tests.insight.corpus.strange_words import COLOURS, FIRST, LAST, PLACES, THINGS, many, size


def dates(r: Random, draw: int) -> list[Specimen]:
    n = size(draw)
    start = date(1995 + 5 * draw, 1, 1)
    days = [start + timedelta(days=r.randrange(1500)) for _ in range(n)]
    iso: Pairs = [(f"{d:%Y-%m-%d}", f"{d}") for d in days]
    named: Pairs = [(f"{d:%b}-{d.day}-{d.year}", f"{d}") for d in days]
    points: Pairs = [(f"{d:%d.%m.%Y}", f"{d}") for d in days]
    old = [date(1921, 1, 1) + timedelta(days=r.randrange(18000)) for _ in range(n)]
    short: Pairs = [(f"{d:%d.%m.%y}", f"{d}") for d in old]
    one_offset: Pairs = [(f"{d:%Y-%m-%d}T{r.randint(0, 23):02}:15:00+02:00", "") for d in days]
    one_offset = [(cell, cell) for cell, _ in one_offset]
    offsets: Pairs = [
        (v := f"{d:%Y-%m-%d}T{r.randint(0, 23):02}:15:00{r.choice(('+02:00', '-05:00', '+09:00'))}", v)
        for d in days
    ]
    years = [str(d.year) for d in days]
    quarters = [f"{d.year}-Q{(d.month + 2) // 3}" for d in days]
    months = [f"{d:%Y-%m}" for d in days]
    clock: Pairs = [(v := f"{r.randint(0, 23):02}:{r.randint(0, 59):02}", f"{v}:00") for _ in range(n)]
    return [
        meant(f"days, ISO {draw}", iso, DATES),
        meant(f"days with names {draw}", named, DATES),
        meant(f"days with points {draw}", points, DATES),
        meant(f"birthdays {draw}", short, DATES),
        meant(f"one offset {draw}", one_offset, DATES),
        meant(f"several offsets {draw}", offsets, DATES),
        specimen(f"years {draw}", years, NUMBERS),
        specimen(f"quarters {draw}", quarters),
        specimen(f"months {draw}", months),
        meant(f"times of day {draw}", clock, DATES),
    ]


# Lists, and marks that are part of a value


def lists(r: Random, draw: int) -> list[Specimen]:
    n = size(draw)
    tags = many(n, lambda: "; ".join(r.sample(COLOURS, r.randint(1, 4))))
    bars = many(n, lambda: "|".join(r.sample(THINGS, r.randint(1, 3))))
    people = many(n, lambda: f"{r.choice(LAST)}, {r.choice(FIRST)}")
    towns = many(n, lambda: f"{r.choice(PLACES)} Hill, {r.choice(('North', 'South'))} County")
    shades = many(n, lambda: f"{r.choice(COLOURS)}/{r.choice(COLOURS)}")
    paths = many(n, lambda: f"/{r.choice(THINGS)}/{r.choice(COLOURS)}/{r.randint(1, 9)}.txt")
    firms = many(n, lambda: f"{r.choice(LAST)} & {r.choice(LAST)}")
    ranges = many(n, lambda: (lambda k: f"{k}-{k + 9}")(10 * r.randint(1, 8)))
    return [
        specimen(f"tags {draw}", tags, LISTS),
        specimen(f"machines {draw}", bars, LISTS),
        specimen(f"people, last name first {draw}", people, LISTS),
        specimen(f"towns {draw}", towns, LISTS),
        specimen(f"shades {draw}", shades, LISTS),
        specimen(f"paths {draw}", paths),
        specimen(f"firms {draw}", firms, LISTS),
        specimen(f"ages in groups {draw}", ranges),
    ]
