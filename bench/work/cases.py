"""The ten kinds of work, each a recipe."""

from __future__ import annotations

CASES: dict[str, tuple[str, ...]] = {
    "none": (),
    "clean": (
        'read nulls "n/a", "-", "none", "?", ""',
        "trim * squeeze",
        'nullify "salt" in glazes',
        'fill studio with "unknown"',
        'replace "temoku" with "tenmoku" in glazes',
        'replace "clay works" with "Clay Works", "quayside" with "Quayside" in studio',
    ),
    "list": (
        'split pieces at ";" into rows',
        'split pieces at "=" into piece, made in place too few "1"',
        "convert made to integer",
    ),
    "names": (
        r'split potter at " " into title? /(Dr|Ms|Mr)\./, first_name, middle? /\p{Lu}\./, last_name'
        " in place too many unsplit too few null",
    ),
    "types": (
        'convert fired_at to timestamp written "%d.%m.%Y %H:%M" failures null',
        'convert price to decimal 2 point "," without "EUR" failures null',
    ),
    "few groups": ('group by kiln, studio with firings = count(), glazes = join(distinct glazes, "; ")',),
    "many groups": (
        'make half = left(firing, 8)\ngroup by half with firings = count(), kilns = join(kiln, ";")',
    ),
    "sort": ("sort by kiln, fired_at descending",),
    "dedupe": ("dedupe by kiln, studio, potter",),
    "lookup": ('lookup "work-kilns.csv" on kiln bring fuel, shelves',),
}
"""The statements of each; the first line of a recipe is before them."""
