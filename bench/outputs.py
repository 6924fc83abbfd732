"""Records what the program answers to many recipes and commands, so that two versions can be compared byte for byte.

    python -m bench.outputs collect CASES.json            # recipes and tables from the manual's examples and the tests
    python -m bench.outputs record CASES.json FOLDER      # answers of the installed program, one file per case
    python -m bench.outputs compare BEFORE AFTER          # two such folders; exit code 1 where they differ

`record` runs with the Python of the version that is recorded, and from one list of cases: collect it once.
"""

from __future__ import annotations

import ast
import importlib
import json
import os
import pkgutil
import re
import shutil
import sys
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parent.parent
SECONDS = re.compile(
    rb'\b\d+(?:\.\d+)? m?s\b|"seconds\w*": ?[\d.e-]+|\d{4}-\d\d-\d\d[ T]\d\d:\d\d(?::\d\d)?(?:\.\d+)?'
)
COMMANDS = (
    ("run", "r.mangler", "x.csv", "--to", "out.csv", "--aside", "aside.csv"),
    ("run", "r.mangler", "x.csv", "--to", "-", "--json"),
    ("run", "r.mangler", "x.csv", "--to", "j.csv", "--json", "--strict"),
    ("try", "x.csv", "STEPS", "--all"),
    ("try", "x.csv", "STEPS", "--json"),
    ("check", "r.mangler", "x.csv"),
    ("test", "r.mangler"),
    ("format", "r.mangler", "--check"),
)
ON_TABLES = (
    ("look", "x.csv"),
    ("look", "x.csv", "--json"),
    ("profile", "x.csv"),
    ("draft", "x.csv", "--to", "d.mangler"),
)
DEMO = (
    ("demo",),
    ("run", "kiln-log/kiln-log.mangler", "kiln-log/extracts", "--to", "clean/"),
    ("run", "kiln-log/kiln-log.mangler", "kiln-log/extracts", "--to", "all.csv", "--together"),
    ("run", "kiln-log/kiln-log.mangler", "kiln-log/extracts", "--to", "two/", "--workers", "2", "--json"),
    ("run", "kiln-log/kiln-log.mangler", "kiln-log/extracts", "--to", "clean/", "--only-new"),
    ("history", "kiln-log/kiln-log.mangler"),
    ("check", "kiln-log/kiln-log.mangler", "kiln-log/extracts"),
    ("test", "kiln-log/kiln-log.mangler"),
    ("manual",),
    ("run", "--help"),
    ("--help",),
)


VERBS = re.compile(
    r"(trim|replace|nullify|keep|drop|map|split|capture|join|clean list|unpivot|pivot|recase|fill|convert|make|change"
    r"|set aside|sort|dedupe|group|lookup|number rows|rename|reorder|require|read|tolerate) \S"
)
SAMPLE = (
    "kiln,studio,glaze,cone,made,fired on,contacts,result\n"
    '007, Clay  Works ,ash,06,4,2026-05-04,"a@example.org; b@example.org",good\n'
    "012,Quayside,Shino,6,,2026-05-05,,cracked\n"
    '007,clay works,ash,06,12,05.05.2026,"c@example.org",\n'
    ',Quayside,"ash, shino",n/a,"1,204",2026-05-06,x,good\n'
)


def collect() -> list[dict[str, str]]:
    """Recipes and tables as the tests and the manual's examples have them; steps without a table get the sample."""
    cases: dict[tuple[str, str], None] = {}
    alone: dict[str, None] = {}
    for path in [*sorted((ROOT / "tests").rglob("*.py")), *sorted((ROOT / "src").rglob("*.py"))]:
        for node in ast.walk(ast.parse(path.read_text())):
            items = (
                node.args if isinstance(node, ast.Call) else node.elts if isinstance(node, ast.Tuple) else []
            )
            texts = [a.value for a in items if isinstance(a, ast.Constant) and isinstance(a.value, str)]
            called = (
                isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id == "Example"
            )
            if len(texts) >= 2 and "\n" in texts[1] and VERBS.match(texts[0]):
                table = texts[1]
                if called:
                    table = "\n".join(
                        ",".join(c.strip() for c in row.split("|")) for row in table.split("\n")
                    )
                cases[texts[0], table] = None
            elif texts and VERBS.match(texts[0]):
                alone[texts[0]] = None
    cases |= {(steps, SAMPLE): None for steps in alone}
    return [{"recipe": f'mangler 1 "case"\n{recipe}\n', "table": table} for recipe, table in cases]


def steps_of(recipe: str) -> list[str]:
    """The statements of a recipe, one text each; lines that start with a space belong to the one before."""
    lines = re.split(r"\n(?=\S)", recipe.strip())[1:]
    return [line for line in lines if not line.startswith(("read", "write", "tolerate", "test", "#"))]


def answers(
    case: dict[str, str], commands: tuple[tuple[str, ...], ...], folder: Path
) -> Iterator[dict[str, Any]]:
    """What each command answers in a folder of its own, with the files that it leaves there."""
    folder.mkdir()
    (folder / "x.csv").write_bytes(case["table"].encode("utf-8", "surrogatepass"))
    (folder / "r.mangler").write_bytes(case["recipe"].encode("utf-8", "surrogatepass"))
    for command in commands:
        words = [w for word in command for w in (steps_of(case["recipe"]) if word == "STEPS" else [word])]
        code = _forked(words, folder)
        files = {
            str(path.relative_to(folder)): path.read_bytes().decode("latin-1")
            for path in sorted(folder.rglob("*"))
            if path.is_file()
            and path.suffix in (".csv", ".mangler")
            and path.name not in ("x.csv", "r.mangler")
        }
        streams = {
            name: SECONDS.sub(b"S", (folder / name).read_bytes()).decode("utf-8", "backslashreplace")
            for name in ("stdout", "stderr")
        }
        yield {"command": " ".join(command), "code": code, **streams, "files": files}


def _forked(command: list[str], folder: Path) -> int:
    child = os.fork()
    if not child:
        os.chdir(folder)
        os.environ.update(COLUMNS="120", NO_COLOR="1", TERM="dumb")
        for number, name in ((1, "stdout"), (2, "stderr")):
            os.dup2(os.open(name, os.O_WRONLY | os.O_CREAT | os.O_TRUNC), number)
        os.dup2(os.open(os.devnull, os.O_RDONLY), 0)
        from mangler.__main__ import main

        sys.argv = ["mangler", *command]
        try:
            main()
        except SystemExit as end:
            code = end.code
            if isinstance(code, str):
                print(code, file=sys.stderr)
            sys.stdout.flush()
            sys.stderr.flush()
            os._exit(code if isinstance(code, int) else int(bool(code)))
        sys.stdout.flush()
        os._exit(0)
    return os.waitstatus_to_exitcode(os.waitpid(child, 0)[1])


def record(cases: list[dict[str, str]], to: Path) -> None:
    time.perf_counter = lambda: 0.0  # the width of a column of times would differ from run to run
    import mangler

    for module in pkgutil.walk_packages(mangler.__path__, "mangler."):  # loaded once, and not in every child
        if not module.name.endswith("__main__"):
            importlib.import_module(module.name)
    to.mkdir(parents=True)
    work = Path(tempfile.mkdtemp(prefix="outputs-"))
    for number, case in enumerate(cases):
        found = list(answers(case, (*COMMANDS, *ON_TABLES), work / "case"))
        shutil.rmtree(work / "case")
        (to / f"{number:04}.json").write_text(json.dumps({"case": case, "answers": found}, indent=1))
    found = list(answers({"recipe": "", "table": ""}, DEMO, work / "case"))
    (to / "demo.json").write_text(json.dumps({"case": {}, "answers": found}, indent=1))
    shutil.rmtree(work)


def compare(before: Path, after: Path) -> int:
    names = sorted({path.name for folder in (before, after) for path in folder.glob("*.json")})
    count = different = 0
    for name in names:
        one, other = (json.loads((folder / name).read_text()) for folder in (before, after))
        for old, new in zip(one["answers"], other["answers"], strict=True):
            count += 1
            if old != new:
                different += 1
                print(f"== {name}: {old['command']}\n{one['case'].get('recipe', '')}")
                for key in old:
                    if old[key] != new[key] and key != "files":
                        print(f"-- {key}\n{old[key]}\n-- now\n{new[key]}")
                files = {**old["files"], **new["files"]}
                print("-- files:", [one for one in files if old["files"].get(one) != new["files"].get(one)])
    print(f"{count} answers of {len(names)} cases, {different} differ")
    return int(different > 0)


def main() -> int:
    task, *paths = sys.argv[1:] or [""]
    if task == "collect":
        Path(paths[0]).write_text(json.dumps(collect(), indent=1))
    elif task == "record":
        record(json.loads(Path(paths[0]).read_text()), Path(paths[1]))
    elif task == "compare":
        return compare(Path(paths[0]), Path(paths[1]))
    else:
        sys.exit(__doc__)
    return 0


if __name__ == "__main__":
    sys.exit(main())
