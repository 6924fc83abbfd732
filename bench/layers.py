"""Draws the layers of the program from the import contracts, as docs/architecture.md shows them.

python -m bench.layers
"""

from __future__ import annotations

import tomllib
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
WIDTH = 62


def figure() -> str:
    """A box per layer, the highest first; what is in a box imports only from the boxes below it."""
    contracts = tomllib.loads((ROOT / "pyproject.toml").read_text("utf-8"))["tool"]["importlinter"][
        "contracts"
    ]
    layers = next(contract["layers"] for contract in contracts if contract["type"] == "layers")
    edge = "+" + "-" * WIDTH + "+"
    lines = [edge]
    for layer in layers:
        names = "   |   ".join(part.strip().removeprefix("mangler.") for part in layer.split("|"))
        lines += [f"|{names:^{WIDTH}}|", edge]
    return "\n".join(lines)


if __name__ == "__main__":
    print(figure())
