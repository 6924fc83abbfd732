"""`group`: the rows of each group become one."""

from __future__ import annotations

from mangler.expressions.aggregates.bind import BoundAggregate, bind_over_groups
from mangler.expressions.value import Bound, cast_to
from mangler.language.declaration import Declaration, Example
from mangler.language.literals import Name
from mangler.language.mistake import ExitCode, Mistake, Refusal, wrong_recipe
from mangler.language.statement import Statement
from mangler.late_dataclass import dataclass
from mangler.steps.group.grouping import Grouping, Groups, nulls_told
from mangler.steps.shared.case_twins import twins_told
from mangler.steps.shared.conditions import surroundings
from mangler.steps.shared.counters import CHANGES, FAILED, NULLS_SKIPPED, TWINS
from mangler.steps.shared.failing import policy_of, remarks_on_failures
from mangler.steps.shared.key_columns import columns_after_by, refuse_lists, said_twice
from mangler.table.contract import GatheringStep
from mangler.table.memory_budget import MemoryBudget
from mangler.table.schema import Schema, ValueType
from mangler.table.tally import Tally

DECLARATION = Declaration(
    name="group",
    usage="group [by COLUMNS] with {NAME = EXPR}, … [anycase] [failures (stop|null)]",
    meaning="Brings rows together: those that are alike in some columns become one row, without by all rows of the"
    " table. It has those columns, and after them one for each expression. An expression uses aggregates, which see"
    " all rows of the group, and the grouping columns. Groups are in the order of their first rows; null is a group"
    " of its own.",
    clauses={
        "by": "Rows that are alike in these columns are a group.",
        "with": 'The new columns: made = sum(pieces), potters = join(distinct potter, ", "). mangler manual aggregates'
        " has all that can be asked of a group.",
        "anycase": "Letter case does not count in the grouping columns, in distinct and in sorted by; a group shows"
        " what its first row has.",
        "failures": "What happens to a value that cannot be made: stop (the default) reads on to the end, delivers"
        " nothing and reports such rows; null takes null for it.",
    },
    examples=(
        Example(
            'group by kiln with made = sum(made), potters = join(distinct potter, ", ")',
            "kiln | potter | made integer\n007 | Kallo | 4\n012 | Aslan | 2\n007 | Verhoe | 3\n007 | Kallo | null",
            'kiln | made integer | potters\n007 | 7 | "Kallo, Verhoe"\n012 | 2 | Aslan',
        ),
        Example(
            'group by glaze with kilns = join(distinct kiln, "; " sorted by kiln descending), firings = count()',
            "kiln | glaze\n007 | ash\n012 | shino\n012 | ash\n007 | ash\n044 | null",
            "glaze | kilns | firings integer\nash | 012; 007 | 3\nshino | 012 | 1\nnull | 044 | 1",
        ),
        Example(
            "group by studio with share = 100 * count(good) / count(), began = first(month sorted by number) anycase",
            "studio | good | month | number integer\nClay Works | yes | May | 5\nclay works | null | April | 4",
            "studio | share float | began\nClay Works | 50 | April",
        ),
        Example(
            "group with rows = count(), hottest = max(integer(peak)) failures null",
            "peak\n1222\ntbc\n998",
            "rows integer | hottest integer\n3 | 1222",
        ),
    ),
    counters=(*CHANGES, *FAILED, *NULLS_SKIPPED, *TWINS),
)


@dataclass(frozen=True)
class Group(GatheringStep):
    groups: Groups
    schema: Schema
    makes_table = True
    keeps_rows = False
    ways_out = "failures null, or convert the column before, with its own failures"

    def gather(self, budget: MemoryBudget) -> Grouping:
        return Grouping(self.groups, budget)

    def facts(self, tally: Tally) -> list[str]:
        return nulls_told(tally)

    def remarks(self, tally: Tally) -> list[str]:
        messages = []
        if tally.rows_in > 1 and not tally.rows_merged and not tally.withdrawn:
            messages.append("no rows came together: each is a group of its own")
        return [*messages, *twins_told(tally, "group"), *remarks_on_failures(tally)]


def bind(statement: Statement, schema: Schema) -> Group:
    anycase = statement.has("anycase")
    keys: tuple[int, ...] = ()
    if statement.has("by"):
        keys = columns_after_by(statement, schema, DECLARATION.usage, "one group, as without by")
        refuse_lists(schema, keys, statement.span_of("by"))
    key_schema = Schema(tuple(schema.columns[index] for index in keys), schema.gone)
    around = surroundings(statement, schema, DECLARATION.usage)
    aggregates: list[BoundAggregate] = []
    made: list[tuple[str, Bound]] = []
    mistakes: list[Mistake] = []
    codes: list[ExitCode] = []
    for item in statement.values["name"]:
        name: Name = item["name"]
        try:
            if name.value in key_schema.names:
                raise wrong_recipe(
                    "name-taken",
                    f'"{name.value}" is a grouping column, which comes out as it is',
                    "Take another name.",
                    name.span,
                )
            bound, found = bind_over_groups(item["="], around, key_schema, anycase, len(aggregates))
        except Refusal as refusal:
            mistakes += refusal.mistakes
            codes.append(refusal.code)
            continue
        aggregates += found
        made.append((name.value, cast_to(bound, bound.kind or ValueType.TEXT)))
    if mistakes:
        raise Refusal(mistakes, min(codes))
    span = statement.span
    groups = Groups(schema, keys, anycase, tuple(aggregates), tuple(made), policy_of(statement), span)
    return Group(groups, groups.schema)


def check(statement: Statement) -> list[Mistake]:
    names = [item["name"] for item in statement.values["name"]]
    return said_twice(names, "is made twice", "Give each its own name.")
