"""`--install-completion SHELL` and `--show-completion SHELL`: what makes a shell complete words of the command line."""

from __future__ import annotations

import os
from collections.abc import Sequence
from pathlib import Path

SHELLS = ("bash", "zsh", "fish")
INSTALL, SHOW = "--install-completion", "--show-completion"


def asked(words: Sequence[str]) -> bool:
    """Whether a command line is about completion."""
    return bool(words) and words[0].partition("=")[0] in (INSTALL, SHOW)


def answer(words: Sequence[str]) -> int:
    """Installs, or shows, what the shell needs. The shell is the one that is named, else the user's own."""
    from typer._completion_shared import get_completion_script, install

    from mangler.cli.answering import show_answer, show_line
    from mangler.language.mistake import wrong_recipe

    option, _, said = words[0].partition("=")
    shell = said or (words[1] if len(words) > 1 else Path(os.environ.get("SHELL", "")).name)
    if shell not in SHELLS:
        raise wrong_recipe(
            "unknown-shell",
            f"{shell or 'the shell'} is not a shell whose words can be completed",
            f"Name one: mangler {option} {'|'.join(SHELLS)}",
        )
    if option == SHOW:
        script = get_completion_script(prog_name="mangler", complete_var="_MANGLER_COMPLETE", shell=shell)
        show_answer(script + "\n")
        return 0
    _, path = install(shell=shell, prog_name="mangler", complete_var="_MANGLER_COMPLETE")
    show_line(f"Completion for {shell} is in {path}; new windows of {shell} use it.")
    return 0
