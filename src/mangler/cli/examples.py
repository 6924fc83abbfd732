"""Examples of each command, for its help: they work in the folder that `mangler demo` makes."""

from __future__ import annotations

WEEK = "extracts/clayworks-week-19.csv"
DRIFTED = "extracts/clayworks-week-20.csv"
EXAMPLES: dict[str, tuple[tuple[str, str], ...]] = {
    "demo": (
        ("mangler demo", "into the folder kiln-log"),
        ("mangler demo example", "into another one"),
    ),
    "look": (
        (f"mangler look {WEEK}", "the first rows"),
        (f"mangler look {WEEK} --columns 'kiln, potter' --from -5", "two columns of the last five"),
        (f"mangler look {WEEK} --where 'kiln = \"044\"'", "only rows that meet a condition"),
    ),
    "profile": (
        (f"mangler profile {WEEK}", "a line per column"),
        (f"mangler profile {WEEK} --columns 'peak_c, glazes'", "two columns in full"),
        (f"mangler profile {WEEK} --json", "for a program"),
    ),
    "draft": (
        (f"mangler draft {WEEK}", "a first recipe, on the screen"),
        (f"mangler draft {WEEK} --to first.mangler", "into a file"),
        (f"mangler draft {WEEK} --to first.mangler --replace", "into a file that is there"),
    ),
    "try": (
        (f"mangler try {WEEK} 'trim * squeeze'", "a step, on the first rows"),
        (
            f"mangler try {WEEK} 'fill studio with \"unknown\"' --recipe fills.mangler --save",
            "then add it to a recipe",
        ),
        ("mangler try --given 'made = \" 4 \"' 'integer(trim(made)) + 1'", "an expression, without a file"),
    ),
    "explain": (
        ("mangler explain kiln-log.mangler", "a sentence per statement"),
        (f"mangler explain kiln-log.mangler {WEEK} --columns share", "all that happens to a column"),
        ("mangler explain kiln-log.mangler --added 'depth float'", "what would happen to a new one"),
    ),
    "compare": (
        (f"mangler compare {WEEK} {DRIFTED}", "two weeks, by a key that is found"),
        (f"mangler compare {WEEK} {DRIFTED} --on 'kiln, fired_at'", "by columns that you name"),
        ("mangler compare --runs 1 2", "the outputs of two past runs"),
    ),
    "check": (
        ("mangler check kiln-log.mangler", "the recipe alone"),
        (f"mangler check kiln-log.mangler {DRIFTED}", "what is not as it was"),
        (f"mangler check kiln-log.mangler {DRIFTED} --json", "for a program"),
    ),
    "test": (
        ("mangler test kiln-log.mangler", "all tests of a recipe"),
        ("mangler test kiln-log.mangler kiln-log-from-week-20.mangler", "of two recipes"),
        ("mangler test kiln-log.mangler --json", "for a program"),
    ),
    "run": (
        (f"mangler run kiln-log.mangler {WEEK} --to clean/", "one extract"),
        (f"mangler run kiln-log.mangler {WEEK} --rehearse", "write nothing, show what would come"),
        (
            f"mangler run kiln-log.mangler {WEEK} --to clean/ --report week-19.html",
            "with a page that tells it",
        ),
        (
            "mangler run kiln-log.mangler 'extracts/clayworks-week-1*.csv' --to all.csv --together",
            "several extracts into one file",
        ),
        (
            "mangler run kiln-log.mangler 'extracts/clayworks-week-1*.csv' --append all.csv --only-new",
            "what is new behind the rows of a file",
        ),
    ),
    "format": (
        ("mangler format kiln-log.mangler", "lay a recipe out"),
        ("mangler format kiln-log.mangler --check", "only say whether it is"),
        ("mangler format kiln-log.mangler kiln-log-from-week-20.mangler", "two recipes"),
    ),
    "history": (
        ("mangler history kiln-log.mangler", "the last runs"),
        ("mangler history show 1", "one run, with its summary"),
        ("mangler history kiln-log.mangler --json", "for a program"),
    ),
    "manual": (
        ("mangler manual", "all pages"),
        ("mangler manual split", "one verb, with examples"),
        ("mangler manual unknown-column", "what a mistake means"),
    ),
    "help": (
        ("mangler help", "all commands"),
        ("mangler help run", "one command"),
    ),
}
