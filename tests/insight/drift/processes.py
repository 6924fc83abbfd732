"""Five made-up processes, unlike one another: each makes the rows of any of its weeks.

The last one was not looked at while the detectors were written.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from random import Random

Cells = list[str | None]
Table = dict[str, Cells]


@dataclass(frozen=True)
class Process:
    """`week` makes a week's rows. The other fields name the columns that changes are planted in."""

    name: str
    week: Callable[[int, int], Table]
    key: str
    day: str
    amount: str
    """Numbers with places, written with a point."""
    few: str
    """A closed set of words."""
    code: str
    """Codes of one pattern, with zeros in front."""
    follows: str
    """A column that follows from the closed set."""
    text: str
    listed: str = ""
    """Lists with ; between their parts."""


def _start(week: int) -> date:
    return date(2026, 1, 5) + timedelta(weeks=week)


def parcels(week: int, rows: int) -> Table:
    """Running numbers, batches and days that move on; four carriers."""
    r, first = Random(f"parcels {week} {rows}"), week * rows
    carriers = {"north line": "N", "coast van": "C", "rail": "R", "bike": "B"}
    chosen = r.choices(list(carriers), (5, 4, 3, 1), k=rows)
    return {
        "parcel": [f"P-{first + i:07}" for i in range(rows)],
        "batch": [
            f"B{_start(week):%y}-{_start(week).isocalendar().week:02}{r.choice('ab')}" for _ in range(rows)
        ],
        "sent_on": [f"{_start(week) + timedelta(days=r.randrange(5)):%Y-%m-%d}" for _ in range(rows)],
        "week": [f"week {week + 1}"] * rows,
        "carrier": list(chosen),
        "depot": [carriers[one] for one in chosen],
        "weight_kg": [f"{r.lognormvariate(1, 0.6):.2f}" for _ in range(rows)],
        "shelf": [f"{r.randrange(1, 99):04}" for _ in range(rows)],
        "contents": [
            "; ".join(r.sample(("books", "toys", "tea", "tools", "soap"), r.randint(1, 3)))
            for _ in range(rows)
        ],
        "remark": [
            None if r.random() < 0.8 else f"left with neighbour {r.randrange(1, 60)}" for _ in range(rows)
        ],
    }


CROPS = (
    "leek",
    "kale",
    "beet",
    "bean",
    "pea",
    "courgette",
    "tomato",
    "maize",
    "pumpkin",
    "sprout",
    "parsnip",
    "chard",
)


def harvest(week: int, rows: int) -> Table:
    """Seasons: crops come and go every week, temperatures swing, months have names.

    A set that changes for the first time looks the same as one in which a value was renamed.
    """
    r, season = Random(f"harvest {week} {rows}"), week * 7 / 365 * 2 * math.pi
    now = [CROPS[(week + i) % len(CROPS)] for i in range(5)]
    fields = {"upper field": "loam", "lower field": "clay", "glasshouse": "peat", "river field": "clay"}
    chosen = r.choices(list(fields), (3, 3, 2, 2), k=rows)
    days = [_start(week) + timedelta(days=r.randrange(6)) for _ in range(rows)]
    return {
        "crate": [f"{week:03}-{i:05}" for i in range(rows)],
        "picked": [f"{day:%d.%m.%Y}" for day in days],
        "month": [f"{day:%B}" for day in days],
        "crop": r.choices(now, k=rows),
        "field": list(chosen),
        "soil": [fields[one] for one in chosen],
        "degrees": [f"{12 - 10 * math.cos(season) + r.gauss(0, 3):.1f}" for _ in range(rows)],
        "rain_mm": [f"{max(0.0, r.gauss(1, 3)):.1f}" for _ in range(rows)],
        "picker": [f"{r.randrange(1, 40):03}" for _ in range(rows)],
        "started": [f"{r.randrange(6, 12):02}:{r.randrange(60):02}" for _ in range(rows)],
        "helpers": [
            "; ".join(r.sample(("Ida", "Joost", "Marit", "Per"), r.randint(1, 3))) for _ in range(rows)
        ],
    }


def members(week: int, rows: int) -> Table:
    """Growth: numbers rise, new towns turn up now and then, fees grow with the years."""
    r, first = Random(f"members {week} {rows}"), week * rows
    towns = [
        f"{a}{b}"
        for a in ("Nor", "Sud", "Ost", "Wel", "Har")
        for b in ("by", "heim", "stad", "vik", "dal", "holm")
    ]
    known = towns[: min(len(towns), 10 + week)]
    plans = {"basic": "M1", "family": "M2", "patron": "M3"}
    chosen = r.choices(list(plans), (6, 3, 1), k=rows)
    return {
        "member": [str(100000 + first + i) for i in range(rows)],
        "joined": [f"{_start(week) + timedelta(days=r.randrange(7)):%d/%m/%Y}" for _ in range(rows)],
        "town": r.choices(known, [1 / (i + 1) for i in range(len(known))], k=rows),
        "plan": list(chosen),
        "plan_code": [plans[one] for one in chosen],
        "fee": [f"{(20 + 30 * r.random()) * 1.01**week:.2f}" for _ in range(rows)],
        "visits": [str(min(40, int(r.expovariate(0.3)))) for _ in range(rows)],
        "locker": [f"L{r.randrange(1, 400):05}" for _ in range(rows)],
        "mail": [f"{r.choice('abcdefgh')}{r.randrange(10**6)}@example.org" for _ in range(rows)],
        "interests": [
            "; ".join(r.sample(("swim", "row", "climb", "run"), r.randint(1, 3))) for _ in range(rows)
        ],
        "note": [None] * rows,
    }


def complaints(week: int, rows: int) -> Table:
    """Free text, with categories and times of day; some cells are empty."""
    r, first = Random(f"complaints {week} {rows}"), 5000 + week * rows
    kinds = {"late": "ops", "broken": "repair", "wrong item": "ops", "noise": "house", "other": "desk"}
    chosen = r.choices(list(kinds), (5, 3, 3, 2, 2), k=rows)
    begin = datetime.combine(_start(week), datetime.min.time())
    words = ("the lamp", "my chair", "a parcel", "the door", "our table", "this clock")
    ends = (
        "came late",
        "does not work",
        "was not mine",
        "makes a noise",
        "is scratched, again",
        "fell; it broke",
    )
    return {
        "ticket": [f"T{first + i:08}" for i in range(rows)],
        "at": [f"{begin + timedelta(minutes=r.randrange(7 * 1440)):%Y-%m-%d %H:%M}" for _ in range(rows)],
        "kind": list(chosen),
        "team": [kinds[one] for one in chosen],
        "text": [f"{r.choice(words)} {r.choice(ends)} {r.randrange(2, 30)} days ago" for _ in range(rows)],
        "refund": [f"{r.expovariate(0.05):.2f}" if r.random() < 0.7 else None for _ in range(rows)],
        "minutes": [str(int(r.lognormvariate(3, 1))) for _ in range(rows)],
        "desk": [f"{r.randrange(1, 30):03}" for _ in range(rows)],
        "labels": [
            "; ".join(r.sample(("urgent", "vip", "second", "phone"), r.randint(1, 3))) for _ in range(rows)
        ],
        "answered": [r.choice(("yes", "yes", "no", None)) for _ in range(rows)],
    }


def wells(week: int, rows: int) -> Table:
    """Measurements with drift of their own: levels fall through the year, instruments are changed."""
    r = Random(f"wells {week} {rows}")
    stations = {
        f"well {name}": zone
        for name, zone in zip(
            "ABCDEFGH", ("hill", "hill", "plain", "plain", "plain", "coast", "coast", "hill"), strict=True
        )
    }
    chosen = r.choices(list(stations), k=rows)
    begin = datetime.combine(_start(week), datetime.min.time())
    step = 7 * 24 * 60 / rows
    return {
        "reading": [f"{week:02}{i:06}" for i in range(rows)],
        "taken_at": [f"{begin + timedelta(minutes=step * i):%Y-%m-%dT%H:%M:%S}" for i in range(rows)],
        "station": list(chosen),
        "zone": [stations[one] for one in chosen],
        "level_m": [f"{40 - week * 0.05 + r.gauss(0, 1.5):.3f}" for _ in range(rows)],
        "ph": [f"{r.gauss(7.2, 0.3):.2f}" for _ in range(rows)],
        "salt_mg": [str(int(r.lognormvariate(5, 0.5))) for _ in range(rows)],
        "pumped": [r.choice("0001") for _ in range(rows)],
        "sonde": [f"S{20 + week // 6}{r.randrange(3)}" for _ in range(rows)],
        "depth": [f"{r.randrange(1, 60):04}" for _ in range(rows)],
        "checks": [
            "; ".join(r.sample(("seal", "pump", "gauge", "lid"), r.randint(1, 3))) for _ in range(rows)
        ],
        "comment": [
            None if r.random() < 0.9 else r.choice(("muddy", "valve stuck", "foam")) for _ in range(rows)
        ],
    }


PROCESSES = (
    Process(
        "parcels",
        parcels,
        "parcel",
        "sent_on",
        "weight_kg",
        "carrier",
        "shelf",
        "depot",
        "remark",
        "contents",
    ),
    Process("harvest", harvest, "crate", "picked", "degrees", "field", "picker", "soil", "crop", "helpers"),
    Process(
        "members", members, "member", "joined", "fee", "plan", "locker", "plan_code", "mail", "interests"
    ),
    Process("complaints", complaints, "ticket", "at", "refund", "kind", "desk", "team", "text", "labels"),
    Process(
        "wells", wells, "reading", "taken_at", "level_m", "station", "depth", "zone", "comment", "checks"
    ),
)
