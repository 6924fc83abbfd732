"""Whether what a run made may be delivered: everything that is a reason against it is raised here."""

from __future__ import annotations

from mangler.engine.run.account import Account
from mangler.engine.run.summary import Summary, example_text, examples_text, rows_text
from mangler.language.mistake import ExitCode, Mistake, Refusal, extract_does_not_fit
from mangler.language.recipe import ParsedRecipe
from mangler.steps import read as read_verb
from mangler.steps.tolerate import tolerated

MANY = 10
"""One row in so many may be unfit where the recipe does not say how many are tolerated."""


def require_acceptable(recipe: ParsedRecipe, account: Account, all_rows: bool) -> None:
    """Raises why what was cleaned is not delivered. `all_rows`: whether all rows of the extract were read."""
    refuse_ragged(recipe, account.summary)
    refuse_misread(recipe, account)
    refuse_failures(account, all_rows)
    refuse_intolerable(recipe, account.summary)
    account.summary.balance.require_even()


def refuse_ragged(recipe: ParsedRecipe, summary: Summary) -> None:
    """With `ragged stop` all rows must have as many fields as the header."""
    statement = recipe.only("read")
    if read_verb.settings(statement).ragged == "stop" and summary.balance.set_aside:
        raise extract_does_not_fit(
            "rows-unfit",
            f"{summary.extract}: {rows_text(summary.balance.set_aside)} cannot be read as the header says:\n"
            f"{examples_text(summary.aside_examples)}",
            "Correct them in the extract, or write ragged aside to set such rows aside.",
            statement.span_of("ragged") if statement else None,
        )


def refuse_misread(recipe: ParsedRecipe, account: Account) -> None:
    """Where many rows do not fit the table, the extract is likely to be read in the wrong way.

    `tolerate` says otherwise. Rows that were set aside before are few, and may all be unfit still.
    """
    summary, unfit, read = account.summary, account.unfit, account.summary.balance.read
    if unfit * MANY <= read or recipe.only("tolerate") is not None or account.source.was_set_aside:
        return
    statement = recipe.only("read")
    why = account.source.explain_missing()
    ways = [f"{why.message[0].upper()}{why.message[1:]}. {why.advice}"] if why else []
    if account.short * 2 > unfit and not why:
        ways.append("Most of them have too few fields. To fill them up with nulls, write read ragged pad.")
    share = f"tolerate {-(-unfit * 100 // read)}%"
    ways.append(f"If they are to be set aside, so many of them, write {share}.")
    raise extract_does_not_fit(
        "many-rows-unfit",
        f"{summary.extract}: {rows_text(unfit)} of {read:,} cannot be read as the header says, more than a tenth:\n"
        f"{examples_text(summary.aside_examples)}",
        "Nothing is delivered. " + "\n".join(ways),
        statement.span if statement else None,
    )


def refuse_failures(account: Account, all_rows: bool) -> None:
    """Rows whose value could not be computed stop the run: each such step says what, where, how many."""
    mistakes = []
    extract = account.summary.extract
    for index, (planned, line) in enumerate(zip(account.steps, account.lines, strict=True)):
        report = account.report(index)
        if line.tally.failed:
            rows = "1 row fails" if line.tally.failed == 1 else f"{line.tally.failed:,} rows fail"
            examples = "\n".join(f"    {example_text(r, at, why)}" for r, at, why in line.tally.failures)
            mistakes.append(
                Mistake(
                    "rows-fail",
                    f"{extract}: {rows} in this step",
                    f"{examples}\nNothing is delivered. Correct the rows, or say what happens to them:"
                    f" {report.ways_out}.",
                    planned.statement.span,
                )
            )
        elif not mistakes and all_rows and report.verdict:
            mistakes.append(
                Mistake(
                    "rows-not-as-required",
                    f"{extract}: {report.verdict}",
                    f"Nothing is delivered. Correct the extract, or write {report.ways_out}.",
                    planned.statement.span,
                )
            )
    if mistakes:
        raise Refusal(mistakes, ExitCode.ANSWER_IS_NO)


def refuse_if_strict(summary: Summary, strict: bool) -> None:
    """With `strict` nothing may be out of the ordinary."""
    balance, warnings = summary.balance, summary.warnings
    if not strict or not (balance.set_aside or warnings):
        return
    messages = [f"{rows_text(balance.set_aside)} would be set aside"] * bool(balance.set_aside)
    messages += ["1 warning" if len(warnings) == 1 else f"{len(warnings):,} warnings"] * bool(warnings)
    examples = examples_text(summary.aside_examples) if balance.set_aside else ""
    lines = [examples] * bool(examples) + [f"    {warning}" for warning in warnings]
    raise extract_does_not_fit(
        "strict",
        f"{summary.extract}: {' and '.join(messages)}, which --strict does not allow:\n" + "\n".join(lines),
        "Nothing is delivered. Correct the extract or the recipe, or run without --strict.",
    )


def refuse_intolerable(recipe: ParsedRecipe, summary: Summary) -> None:
    """More rows set aside than the recipe tolerates stop the run."""
    statement, balance = recipe.only("tolerate"), summary.balance
    amount = tolerated(statement)
    if statement is None or amount is None or not amount.exceeded_by(balance.set_aside, balance.read):
        return
    raise extract_does_not_fit(
        "too-many-aside",
        f"{summary.extract}: {rows_text(balance.set_aside)} of {balance.read:,} would be set aside, and"
        f" {amount} {'is' if amount.number == 1 else 'are'} tolerated:\n"
        f"{examples_text(summary.aside_examples)}",
        "Nothing is delivered. Correct the rows or the recipe, or tolerate more.",
        statement.span,
    )


def require_all_written(summary: Summary, rows_written: int) -> None:
    """The rows in the bytes that were written are the rows that the balance calls delivered."""
    if rows_written != summary.balance.delivered:
        raise extract_does_not_fit(
            "rows-lost",
            f"{summary.extract}: the output holds {rows_text(rows_written)}, and"
            f" {rows_text(summary.balance.delivered)} came out of the steps",
            "Nothing is delivered. This is a fault of Mangler: please report it with the recipe.",
        )
