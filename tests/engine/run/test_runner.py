"""Steps that gather divide a plan into stages, and what follows them sees the new order."""

from __future__ import annotations

from tests.conftest import Run

from mangler.engine.plan.plan import plan
from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.engine.run.runner import first_stage
from mangler.table.schema import Schema


def test_a_step_that_sees_all_rows_ends_a_stage() -> None:
    recipe = LinkedRecipe.parse("mangler 1\ntrim *\nsort by a\ndedupe\nfill a up\ntrim b\nnumber rows as n")
    steps = plan(recipe.parsed, Schema.of_text(["a", "b"])).steps
    stages = [first_stage(steps, first) for first in (0, 2, 3, 4)]
    assert [(stage.gatherer, len(stage.steps), stage.gathers is not None) for stage in stages] == [
        (1, 1, True),
        (2, 0, True),
        (3, 0, True),
        (6, 2, False),
    ]


def test_steps_after_gathering_ones_run_in_the_new_order(run: Run) -> None:
    extract = "a,b\n" + "".join(f"{(n * 7) % 50},{n}\n" for n in range(50))
    steps = "convert a to integer\nsort by a\nnumber rows as n\nsort by a descending\nfill b down\nnumber rows as m"
    for block in (16, 1 << 20):
        table = run(steps, extract, partition_size=block, memory=500).table.to_pylist()
        assert [row["n"] for row in table] == list(range(50, 0, -1))
        assert [row["m"] for row in table] == list(range(1, 51))
        assert [row["a"] for row in table] == list(range(49, -1, -1))
