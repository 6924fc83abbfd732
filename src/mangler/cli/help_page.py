"""The help of a command: what it does, examples, what to give, options in groups, exit codes."""

from __future__ import annotations

import inspect
import re
import shutil
import sys
import textwrap
from collections.abc import Iterator, Sequence
from typing import Any

from mangler.cli.examples import EXAMPLES

WIDEST, HEAD_WIDTH = 100, 24
EXIT_CODES = "Exit codes: "
OPTIONS = "Options"
EXAMPLES_HEAD = "Examples, in the folder that mangler demo makes"
CHAPTERS = (
    ("See", ("look", "profile")),
    ("Write a recipe", ("draft", "try", "explain", "test", "format")),
    ("Run it", ("check", "run", "compare", "history")),
    ("Learn", ("demo", "manual", "help")),
)
"""The commands in the order of the work."""
PROGRAM_OPTIONS = (
    ("--color always|never", "Colour, or none; it may stand behind a command too."),
    ("--version", "Show the version, and which kernels are in use."),
    (
        "--install-completion SHELL",
        "Complete words on the command line of bash, zsh or fish; your own by default.",
    ),
    ("--show-completion SHELL", "Show what that would install."),
)
GROUPS: dict[str, dict[str, tuple[str, ...]]] = {
    "run": {
        "Where rows go": ("to", "append", "aside", "together"),
        "What is run": ("parameters", "run_date", "rows", "only_new", "files_under"),
        "How it is run": ("rehearse", "strict", "workers", "cluster", "memory", "history"),
        "What is shown": ("against", "summary", "quiet", "json"),
    },
    "try": {
        "What is tried": ("rows", "whole", "given", "read"),
        "With a recipe": ("recipe", "save", "parameters", "run_date", "files_under"),
        "What is shown": ("json",),
    },
}
"""The options of commands that have many, in groups; the last group takes the others."""


def usage_of(command: Any, path: str) -> str:
    """`mangler run RECIPE FILE... [OPTIONS]`"""
    words = [path, *(_argument(one) for one in command.params if one.param_type_name == "argument")]
    return " ".join([*words, "[OPTIONS]"])


def command_page(command: Any, path: str) -> str:
    """The help of one command."""
    name = path.split()[-1]
    blocks = inspect.cleandoc(command.help or "").split("\n\n")
    exit_codes = next((block for block in blocks if block.startswith(EXIT_CODES)), "")
    lines = [usage_of(command, path), ""]
    for block in blocks:
        if block != exit_codes:
            lines += [*textwrap.wrap(block, _width()), ""]
    lines += [_head(EXAMPLES_HEAD), *_examples(name), ""]
    arguments = [one for one in command.params if one.param_type_name == "argument"]
    if arguments:
        lines += [_head("What to give"), *_entries([(_argument(a), a.help or "") for a in arguments]), ""]
    for head, options in _groups(command, name).items():
        lines += [_head(head), *_entries([(_option(one), _sentence(one)) for one in options]), ""]
    if exit_codes:
        codes = re.findall(r"(\d+(?:(?:, | or )\d+)*) (.*?)(?:; |\.$)", exit_codes.removeprefix(EXIT_CODES))
        lines += [_head("Exit codes"), *_entries(codes, 18), ""]
    return "\n".join(lines).rstrip() + "\n"


def program_page(program: Any) -> str:
    """The help of the program: its commands in the order of the work."""
    lines = ["mangler COMMAND [OPTIONS]", "", *textwrap.wrap(program.help or "", _width()), ""]
    for head, names in CHAPTERS:
        shorts = [(name, _first_sentence(program.commands[name].help or "")) for name in names]
        lines += [_head(head), *_entries(shorts, 12), ""]
    lines += [_head(OPTIONS), *_entries(PROGRAM_OPTIONS, 32), ""]
    lines.append(
        "mangler help COMMAND shows what a command does; mangler manual is the reference of the language."
    )
    return "\n".join(lines) + "\n"


def _width() -> int:
    return min(WIDEST, shutil.get_terminal_size((WIDEST, 24)).columns) - 1


def _head(text: str) -> str:
    from mangler.cli.colour import is_coloured

    return f"\x1b[1m{text}\x1b[0m" if is_coloured(sys.stdout) else text


def _examples(name: str) -> Iterator[str]:
    for line, meaning in EXAMPLES[name]:
        yield f"  {line}"
        yield f"      {meaning}"


def _entries(entries: Sequence[tuple[str, str]], width: int = HEAD_WIDTH) -> Iterator[str]:
    """Words and what they mean, aligned; a word that is too long has a line of its own."""
    for word, meaning in entries:
        lines = textwrap.wrap(meaning, _width() - width - 2) or [""]
        if len(word) > width - 2:
            yield f"  {word}"
        else:
            yield f"  {word:<{width}}{lines.pop(0)}".rstrip()
        yield from (" " * (width + 2) + line for line in lines)


def _argument(argument: Any) -> str:
    name = str(argument.metavar or argument.name.upper())
    return name if argument.required or name.startswith("[") else f"[{name}]"


def _option(option: Any) -> str:
    names = ", ".join(sorted(option.opts, key=len))
    if option.is_flag:
        return names
    choices = getattr(option.type, "choices", None)
    value = "|".join(map(str, choices)) if choices else option.metavar or option.name.upper()
    return f"{names} {value}"


def _sentence(option: Any) -> str:
    sentence = str(option.help or "").rstrip(".")
    if option.show_default and option.default not in (None, False, ()) and not option.is_flag:
        sentence += f"; {option.default} by default"
    return f"{sentence}."


def _groups(command: Any, name: str) -> dict[str, list[Any]]:
    options = {one.name: one for one in command.params if one.param_type_name == "option"}
    groups = {
        head: [options.pop(own) for own in names] for head, names in GROUPS.get(name, {OPTIONS: ()}).items()
    }
    list(groups.values())[-1].extend(options.values())
    return groups


def _first_sentence(text: str) -> str:
    return re.split(r"(?<=\.)\s", " ".join(text.split()), maxsplit=1)[0]
