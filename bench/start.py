"""`python -m bench.start`: how long the program takes to answer, against the least it could take."""

from __future__ import annotations

import argparse
import sys
import tempfile
from pathlib import Path

from bench.processes import measure, program
from mangler.sample.generate import EXTRACTS, write_extract

EMPTY_PROGRAM = """
import typer
app = typer.Typer(no_args_is_help=True)
@app.callback()
def program(version: bool = typer.Option(False, "--version", help="Show the version and exit.")): pass
@app.command()
def demo(folder: str = typer.Argument("x"), rows: int = typer.Option(60)): "Write an example."
@app.command()
def run(recipe: str, files: list[str], to: str = None, aside: str = None, rehearse: bool = False,
        rows: int = None, quiet: bool = False, json: bool = False): "Clean extracts."
app()
"""
IMPORTS = "import typer, rich.console, numpy, pyarrow.csv, pyarrow.compute"


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rounds", type=int, default=15)
    asked = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        extract = Path(folder) / "extract.csv"
        write_extract(extract, EXTRACTS[0])
        recipe = str(Path(__file__).with_name("clean.mangler"))
        empty = Path(folder) / "empty.py"
        empty.write_text(EMPTY_PROGRAM)
        measured = measure(
            {
                "python": [sys.executable, "-c", ""],
                "--version": [program("mangler"), "--version"],
                "empty --help": [sys.executable, str(empty), "--help"],
                "--help": [program("mangler"), "--help"],
                "imports": [sys.executable, "-c", IMPORTS],
                "run": [
                    program("mangler"),
                    "run",
                    recipe,
                    str(extract),
                    "--to",
                    f"{folder}/o.csv",
                    "--quiet",
                ],
            },
            asked.rounds,
        )
    for name, one in measured.items():
        print(f"{name:14} {one.seconds * 1000:6.0f} ms   processor {one.processor * 1000:6.0f} ms")
    print(
        f"--version is {measured['--version'].processor / measured['python'].processor:.2f} times bare Python"
    )
    print(
        f"--help is {measured['--help'].processor / measured['empty --help'].processor:.2f} times an empty program"
    )
    print(
        f"60 rows are {measured['run'].processor / measured['imports'].processor:.2f} times the imports alone"
    )


if __name__ == "__main__":
    main()
