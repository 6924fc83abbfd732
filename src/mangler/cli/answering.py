"""How a command ends: its exit code, and the one place where errors are shown."""

from __future__ import annotations

import signal
import sys
from collections.abc import Callable
from typing import Any

from mangler.cli.signals import Ended, ended_by
from mangler.cli.streams import UnreadError, silence

OPTIONS_MEANT = {
    "-o": "--to FILE",
    "--output": "--to FILE",
    "--out": "--to FILE",
    "--outfile": "--to FILE",
    "--dry-run": "--rehearse",
    "-n": "--rows NUMBER",
    "--head": "--rows NUMBER",
    "--limit": "--rows NUMBER",
    "-p": "--set NAME=VALUE",
    "--param": "--set NAME=VALUE",
    "--parameter": "--set NAME=VALUE",
    "-j": "--workers NUMBER",
    "--jobs": "--workers NUMBER",
    "--threads": "--workers NUMBER",
    "--merge": "--together",
    "--concat": "--together",
    "--silent": "--quiet",
    "-q": "--quiet",
}
"""Options of many programs, and what they are called here, where a command has it."""


def answered(command: Callable[[], Any]) -> int:
    """Runs a command and gives its exit code. Whatever it refuses is shown, and no traceback ever."""
    try:
        code = int(command() or 0)
        if not code:
            sys.stdout.flush()
    except KeyboardInterrupt:
        show_line(ended_by(signal.SIGINT))
        code = 128 + signal.SIGINT
    except Ended as ended:
        show_line(ended_by(ended.number))
        code = 128 + ended.number
    except SystemExit as ended:
        code = ended.code if isinstance(ended.code, int) else 0 if ended.code is None else 1
    except UnreadError:
        silence(sys.stdout)
        code = 0
    except Exception as error:
        code = _refused(error)
    return int(code)


def _refused(error: Exception) -> int:
    typer = sys.modules.get("typer")
    if typer is not None and isinstance(error, typer.TyperException):
        return _show_usage_error(error)
    from mangler.jobs.fault import refusal_of

    refusal = refusal_of(error)
    show_refusal(refusal)
    return int(refusal.code)


def _show_usage_error(error: Any) -> int:
    """A mistake on the command line itself: an option that there is not, an argument that is missing."""
    from mangler.cli.screen import error_console
    from mangler.language.mistake import ExitCode

    context = getattr(error, "ctx", None)
    if type(error).__name__ == "NoArgsIsHelpError" and context is not None:
        show_answer(context.get_help().rstrip() + "\n")
    else:
        if context is not None:
            show_line(context.get_usage().strip())
        error_console().print(error.format_message(), style="bold red", markup=False, soft_wrap=True)
        show_line(f"  {_way_to(error)}{context.command_path if context else 'mangler'} --help lists all.")
    return ExitCode.WRONG_FOR_ANY_EXTRACT


def _way_to(error: Any) -> str:
    """For an option that is called otherwise here: what to write."""
    meant = OPTIONS_MEANT.get(getattr(error, "option_name", ""), "")
    context = getattr(error, "ctx", None)
    known = {name for parameter in context.command.params for name in parameter.opts} if context else set()
    return f"Write {meant}. " if meant.split(" ")[0] in known else ""


def show_line(text: str) -> None:
    """A message, on standard error."""
    from mangler.cli.shown import shown

    sys.stderr.write(shown(text) + "\n")
    sys.stderr.flush()


def show_answer(text: str) -> None:
    """An answer of several lines, on standard output, as it is."""
    sys.stdout.write(text)
    sys.stdout.flush()


def show_json(answer: dict[str, Any]) -> None:
    import json
    import re

    plain = (sys.stdout.encoding or "").lower().replace("-", "") != "utf8"
    text = json.dumps(answer, indent=2, ensure_ascii=plain)
    # JSON allows these as they are; a terminal takes some of them for commands.
    text = re.sub(r"[\x7f-\x9f\u2028\u2029\ud800-\udfff]", lambda found: f"\\u{ord(found.group()):04x}", text)
    show_answer(text + "\n")


def show_refusal(refusal: Any) -> None:
    """Every mistake with its place and its way out, on standard error."""
    from rich.text import Text

    from mangler.cli.screen import error_console
    from mangler.cli.shown import shown
    from mangler.language.mistake import describe

    console = error_console()
    for mistake in refusal.mistakes[:MOST_MISTAKES]:
        lines = describe(mistake).split("\n")
        for number, line in enumerate(lines):
            style = "bold red" if number == 0 else "red" if set(line.strip()) == {"^"} else ""
            text = Text(shown(line), style=style)
            if number == 0:
                text.append(f"  ({mistake.word})", style="not bold dim default")
            console.print(text, soft_wrap=True)
        console.print()
    rest = len(refusal.mistakes) - MOST_MISTAKES
    if rest > 0:
        what = "1 more mistake" if rest == 1 else f"{rest:,} more mistakes"
        console.print(f"and {what}, shown when these are gone", markup=False, soft_wrap=True)
        console.print()


MOST_MISTAKES = 10
