"""The `mangler` program."""

from __future__ import annotations

import gc
import os
import sys
from collections import defaultdict
from types import ModuleType


def main() -> None:
    from mangler.cli import signals, streams
    from mangler.cli.answering import answered

    try:
        streams.prepare()
        signals.listen()
        code = answered(_program)
        streams.finish()
    except KeyboardInterrupt:  # a second one, while the first was answered
        code = 130
    gc.freeze()  # at its end Python would look once more for circles in all that is there
    sys.exit(code)


def _program() -> int:
    # Answered before anything else is loaded.
    if sys.argv[1:] == ["--version"]:
        from mangler.cli.version import version

        sys.stdout.write(version())
        return 0
    from mangler.cli import shell_completion

    if shell_completion.asked(sys.argv[1:]):
        return shell_completion.answer(sys.argv[1:])
    _start_light()
    if os.environ.get("MANGLER_KERNELS"):
        _check_choice()
    from mangler.cli.main import run_program

    return run_program()


def _check_choice() -> None:
    """Refuses a choice of kernels that cannot be had."""
    from mangler.kernels import compiled
    from mangler.language.mistake import wrong_recipe

    if (trouble := compiled.trouble()) is not None:
        raise wrong_recipe("kernels-not-there", *trouble)


def _start_light() -> None:
    """What libraries prepare for work that is never done here, and what is looked through while they are loaded."""
    # NumPy's algebra would start a thread for each core, which waits by spinning.
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    # Loading makes many objects that stay: looking for circles among them takes a tenth of the time.
    gc.set_threshold(100_000, 20, 20)
    # Arrow would take the descriptions of all its options apart, for texts of help that nobody reads here: 45 ms.
    undescribed = ModuleType("pyarrow.vendored.docscrape")
    vars(undescribed)["NumpyDocString"] = lambda _text: defaultdict(tuple)
    sys.modules.setdefault(undescribed.__name__, undescribed)
    # NumPy would give its functions their texts of help: 14 ms.
    for name in ("numpy._core._add_newdocs", "numpy._core._add_newdocs_scalars"):
        sys.modules.setdefault(name, ModuleType(name))


if __name__ == "__main__":
    main()
