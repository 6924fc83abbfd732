"""Builds the compiled kernels into the wheel where there is a compiler; without one the wheel has the NumPy kernels.

`MANGLER_BUILD=numpy` leaves them out, `compiled` makes a failure to build them an error (for wheels that are given to
others), `checked` builds them with bounds checks and the address sanitiser (for the tests of CONTRIBUTING).
"""

from __future__ import annotations

import os
import shutil
import tempfile
from pathlib import Path
from typing import Any

from hatchling.builders.hooks.plugin.interface import BuildHookInterface

PACKAGE = "mangler/kernels/compiled"
PLAIN = {"boundscheck": False, "wraparound": False, "initializedcheck": False, "cdivision": True}
CHECKED = {"boundscheck": True, "wraparound": False, "initializedcheck": True, "cdivision": True}
FLAGS = ["-O3", "-g0", "-fno-math-errno"]
CHECKED_FLAGS = ["-O1", "-g", "-fsanitize=address,undefined", "-fno-sanitize-recover=undefined"]


class CompiledKernels(BuildHookInterface[Any]):
    """Compiles every `.pyx` of the package; an editable install gets the libraries beside them."""

    def initialize(self, version: str, build_data: dict[str, Any]) -> None:
        asked = os.environ.get("MANGLER_BUILD", "")
        if self.target_name != "wheel" or asked == "numpy":
            return
        if asked not in ("", "compiled", "checked"):
            raise ValueError(f"MANGLER_BUILD is {asked!r}: it can be numpy, compiled or checked")
        source = Path(self.root) / "src" / PACKAGE
        self._work = Path(tempfile.mkdtemp())
        try:
            libraries = compiled(source, self._work, checked=asked == "checked")
        except Exception as error:
            if asked:
                raise
            self.app.display_warning(f"without compiled kernels, NumPy's are used: {error}")
            return
        if version == "editable":
            for library in libraries:
                shutil.copy(library, source)
            return
        build_data["pure_python"] = False
        build_data["infer_tag"] = True
        build_data["force_include"].update(
            {str(library): f"{PACKAGE}/{library.name}" for library in libraries}
        )

    def finalize(self, version: str, build_data: dict[str, Any], artifact_path: str) -> None:  # noqa: ARG002
        if hasattr(self, "_work"):
            shutil.rmtree(self._work, ignore_errors=True)


def compiled(source: Path, work: Path, checked: bool = False) -> list[Path]:
    """The libraries of a folder of `.pyx` files, built in another folder."""
    from Cython.Build import cythonize
    from setuptools import Distribution, Extension
    from setuptools.command.build_ext import build_ext

    flags = CHECKED_FLAGS if checked else FLAGS
    package = PACKAGE.replace("/", ".")
    # Cython takes modules for parts of a package only where the folders above are packages.
    copied = work / "source" / PACKAGE
    copied.mkdir(parents=True)
    for folder in (copied, *list(copied.parents)[:2]):
        (folder / "__init__.py").touch()
    for file in (*source.glob("*.pyx"), *source.glob("*.pxd")):
        shutil.copy(file, copied)
    here = Path.cwd()
    os.chdir(work / "source")  # paths in what is built are then the same on every machine
    try:
        extensions = cythonize(
            [
                Extension(
                    f"{package}.{file.stem}",
                    [str(file.relative_to(work / "source"))],
                    extra_compile_args=flags,
                    extra_link_args=[flag for flag in flags if "sanitize" in flag],
                )
                for file in sorted(copied.glob("*.pyx"))
            ],
            compiler_directives={"language_level": "3", **(CHECKED if checked else PLAIN)},
            quiet=True,
        )
        command = build_ext(Distribution({"ext_modules": extensions}))
        command.build_lib, command.build_temp = str(work / "built"), str(work / "objects")
        command.ensure_finalized()
        command.run()
    finally:
        os.chdir(here)
    return sorted(path for path in (work / "built" / PACKAGE).iterdir() if path.suffix in (".so", ".pyd"))
