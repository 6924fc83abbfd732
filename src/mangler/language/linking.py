"""Brings a recipe together with the files it names: `define`, `parameter`, `import … as`, `include`."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator, Mapping
from dataclasses import replace
from datetime import date
from decimal import Decimal, InvalidOperation
from pathlib import Path

from mangler.language.declaration import Verbs
from mangler.language.expression import AGGREGATES, Call, Expression
from mangler.language.items import Item, Step
from mangler.language.kinds import Signature
from mangler.language.literals import Name, Number, Text, Truth
from mangler.language.mistake import ExitCode, Mistake, Refusal, nearest, wrong_recipe
from mangler.language.names import parts_of
from mangler.language.recipe import MOST_STATEMENTS, ParsedRecipe, load_named, parse_recipe, refuse_too_many
from mangler.language.scope import LATER, Definition, Literal, Scope, Secret
from mangler.language.source import Source, SourceSpan
from mangler.language.source_text import SURROGATES
from mangler.language.statement import Statement
from mangler.late_dataclass import dataclass

NOT_INCLUDED = ("mangler", "test")
"""What an included file has for itself alone."""
DEEPEST_FILES = 20
ONLY_IN_THE_RECIPE = ("read", "write")


def link(
    recipe: ParsedRecipe,
    verbs: Verbs,
    is_built_in: Callable[[str], bool],
    given: Mapping[str, str] | None = None,
    files_under: Path | None = None,
    run_date: date | None = None,
) -> ParsedRecipe:
    """The recipe with included steps in the place of `include`, and with every statement's names.

    `given` are values for parameters from outside; `run_date` is the day that the recipe takes for that of the run,
    today for None. Files are found relative to the one that names them; with
    `files_under` each of them must be under that folder.
    """
    linker = _Linker(verbs, is_built_in, dict(given or {}), files_under, run_date or date.today())
    items = linker.items(recipe, (_identity(recipe.source.name),))
    linker.finish(recipe)
    return with_null_words(ParsedRecipe(recipe.source, tuple(items), tuple(linker.loaded.values())))


def with_null_words(recipe: ParsedRecipe) -> ParsedRecipe:
    """The recipe, each statement with the words that its read statement says mean null."""
    read = recipe.only("read")
    words = tuple(text.value for text in read.values.get("nulls", ())) if read is not None else ()
    if not words:
        return recipe
    items = (
        replace(item, statement=replace(item.statement, null_words=words)) if isinstance(item, Step) else item
        for item in recipe.items
    )
    return replace(recipe, items=tuple(items))


@dataclass
class _Linker:
    verbs: Verbs
    is_built_in: Callable[[str], bool]
    given: dict[str, str]
    files_under: Path | None = None
    run_date: date | None = None

    def __post_init__(self) -> None:
        self.known: dict[str, SourceSpan] = {}
        self.loaded: dict[str, Source] = {}
        """Files that were read, by their identity; each is read once, and its functions are looked at once."""
        self.parsed: dict[str, ParsedRecipe] = {}
        self.scopes: dict[str, Scope] = {}
        self.mistakes: list[Mistake] = []

    def items(self, recipe: ParsedRecipe, files: tuple[str, ...]) -> list[Item]:
        """The recipe's items; `files` are the files that led here, itself the last."""
        scope = self.scope(recipe, files)
        out: list[Item] = []
        for item in recipe.items:
            if not isinstance(item, Step):
                out.append(item)
            elif item.statement.verb != "include":
                out.append(Step(replace(item.statement, scope=scope), item.blank_before))
            else:
                for included in self.included(item.statement, files):
                    out.append(included)
                    refuse_too_many(out if len(out) > MOST_STATEMENTS else (), recipe.source)
        return out

    def included(self, statement: Statement, files: tuple[str, ...]) -> Iterator[Item]:
        other, path = self.load(statement, files)
        if other is None:
            return
        for item in self.items(other, (*files, _identity(path))):
            if not isinstance(item, Step) or item.statement.verb in NOT_INCLUDED:
                continue
            inner = item.statement
            if inner.verb in ONLY_IN_THE_RECIPE:
                self.mistakes.append(
                    Mistake(
                        "verb-not-in-include",
                        f"{inner.verb} is in the recipe itself, not in a file that it includes",
                        f"Move it into {statement.span.source.name}.",
                        SourceSpan(inner.span.source, inner.span.start, inner.span.start + len(inner.verb)),
                    )
                )
                continue
            yield Step(
                replace(inner, included_from=inner.included_from or Path(path).name), item.blank_before
            )

    def scope(self, recipe: ParsedRecipe, files: tuple[str, ...]) -> Scope:
        scope = Scope(run_date=self.run_date)
        for statement in recipe.statements:
            if statement.verb == "parameter":
                self.parameter(statement, scope)
            elif statement.verb == "define":
                self.define(statement, scope)
            elif statement.verb == "import":
                self.take_in(statement, scope, files)
        self.refuse_loops(scope)
        return scope

    def parameter(self, statement: Statement, scope: Scope) -> None:
        name = statement.get("name", Name)
        assert name is not None
        if name.value in scope.parameters or name.value in scope.secrets:
            self.mistakes.append(
                Mistake(
                    "said-twice",
                    f"the parameter {name.value} is there already",
                    "Give this one another name.",
                    name.span,
                )
            )
        self.known[name.value] = name.span
        variable = statement.text("from environment")
        if variable is not None:
            self.secret(name, variable, scope)
            return
        literal: Literal = statement.values["="]
        if name.value in self.given:
            literal = self.read_given(name, literal, self.given[name.value])
        scope.parameters[name.value] = literal

    def secret(self, name: Name, variable: Text, scope: Scope) -> None:
        """A parameter whose value is in the environment, and nowhere else."""
        if name.value in self.given:
            self.mistakes.append(
                Mistake(
                    "wrong-parameter-value",
                    f"--set {name.value}: this parameter is a secret, and a command line is seen by others",
                    f"Put the value into the environment, as {variable.value}.",
                    name.span,
                )
            )
        value = os.environ.get(variable.value)
        if not value:
            state = "is not set" if value is None else "is empty"
            self.mistakes.append(
                Mistake(
                    "secret-missing",
                    f"the variable {variable.value} of the environment {state}, and {name.value} comes from it",
                    f"Set it before the run, for one run: {variable.value}=… mangler run …",
                    variable.span,
                )
            )
        scope.secrets[name.value] = Secret(variable.value, value or "")

    def read_given(self, name: Name, declared: Literal, text: str) -> Literal:
        """A value from outside, of the type that the recipe's own value has."""
        span = declared.span
        if SURROGATES.search(text):
            self.wrong_given(name, "the value holds bytes that are not UTF-8")
            return declared
        if isinstance(declared, Number):
            try:
                number = Decimal(text)
                whole = text.lstrip("+-").isdigit()
                if number.is_finite():
                    return Number(int(text) if whole else number, span)
            except (InvalidOperation, ValueError):
                pass
            self.wrong_given(name, f'"{text}" is not a number')
        elif isinstance(declared, Truth) and declared.value is not None:
            if text.lower() in ("true", "false"):
                return Truth(text.lower() == "true", span)
            self.wrong_given(name, f'"{text}" is neither true nor false')
        return Text(text, span)

    def wrong_given(self, name: Name, what: str) -> None:
        self.mistakes.append(
            Mistake(
                "wrong-parameter-value",
                f"--set {name.value}: {what}",
                "The value is of the type that the recipe's own has.",
                name.span,
            )
        )

    def define(self, statement: Statement, scope: Scope) -> None:
        signature = statement.get("signature", Signature)
        assert signature is not None
        name = signature.name
        if name.value not in LATER and (self.is_built_in(name.value) or name.value in AGGREGATES):
            self.mistakes.append(
                Mistake(
                    "name-taken",
                    f"{name.value} is a function of the language",
                    f"Take another name, such as own_{name.value}.",
                    name.span,
                )
            )
        elif name.value in scope.functions:
            line = scope.functions[name.value].span.line
            self.mistakes.append(
                Mistake(
                    "name-taken",
                    f"{name.value} is defined in line {line} already",
                    "Take another name.",
                    name.span,
                )
            )
        parameters = tuple(parameter.value for parameter in signature.parameters)
        scope.functions[name.value] = Definition(
            name.value, parameters, statement.values["="], name.span, scope
        )

    def take_in(self, statement: Statement, scope: Scope, files: tuple[str, ...]) -> None:
        """The functions of another file, under its prefix."""
        prefix = statement.get("as", Name)
        assert prefix is not None
        if any(name.startswith(f"{prefix.value}.") for name in scope.functions):
            self.mistakes.append(
                Mistake(
                    "name-taken",
                    f"the prefix {prefix.value} is taken by another import",
                    "Take another.",
                    prefix.span,
                )
            )
        other, path = self.load(statement, files)
        if other is None:
            return
        if _identity(path) not in self.scopes:
            self.scopes[_identity(path)] = self.scope(other, (*files, _identity(path)))
        inner = self.scopes[_identity(path)]
        for name, definition in inner.functions.items():
            if "." not in name:
                scope.functions[f"{prefix.value}.{name}"] = definition

    def load(self, statement: Statement, files: tuple[str, ...]) -> tuple[ParsedRecipe | None, str]:
        """The file that a statement names, found relative to the one it is in."""
        text = statement.text("text")
        assert text is not None
        path = Path(statement.span.source.name).parent / text.value
        if _identity(str(path)) in files:
            chain = [*files[files.index(_identity(str(path))) :], _identity(str(path))]
            shown = " → ".join(Path(file).name for file in chain)
            self.mistakes.append(
                Mistake(
                    "file-loop",
                    f"these files name each other in a loop: {shown}",
                    "Take one of them out.",
                    text.span,
                )
            )
            return None, ""
        refuse_outside(path, self.files_under, text.span)
        if len(files) > DEEPEST_FILES:
            message = f"files name each other more than {DEEPEST_FILES} deep"
            self.mistakes.append(
                Mistake("wrong-parameter-value", message, "Name them in one place.", text.span)
            )
            return None, ""
        try:
            identity = _identity(str(path))
            if identity not in self.parsed:
                self.parsed[identity] = parse_recipe(load_named(path, text.span), self.verbs)
                self.loaded[identity] = self.parsed[identity].source
            return self.parsed[identity], str(path)
        except Refusal as refusal:
            message = f"Named in {text.span.source.name}, line {text.span.line}: {statement.span.text}"
            for mistake in refusal.mistakes:
                span = mistake.span or text.span
                advice = (
                    mistake.advice if mistake.span is None else f"{mistake.advice}\n{message}".lstrip("\n")
                )
                self.mistakes.append(replace(mistake, advice=advice, span=span))
            if refusal.code is ExitCode.FILE_TROUBLE:
                raise Refusal(self.mistakes, ExitCode.FILE_TROUBLE) from None
            return None, ""

    def refuse_loops(self, scope: Scope) -> None:
        """A function that needs itself has no end."""
        sound: set[str] = set()
        for name, definition in scope.functions.items():
            if "." in name:
                continue
            chain = _loop(definition, (), sound)
            if chain:
                shown = " → ".join(chain)
                self.mistakes.append(
                    Mistake(
                        "function-loop",
                        f"this function needs itself: {shown}",
                        "A definition cannot go round.",
                        definition.span,
                    )
                )
                break

    def finish(self, recipe: ParsedRecipe) -> None:
        for name in self.given:
            if name not in self.known:
                close = nearest(name, self.known)
                advice = f"Nearest: {close[0]}. " if close else ""
                own = ", ".join(self.known) or "none"
                self.mistakes.append(
                    Mistake(
                        "unknown-parameter",
                        f'--set: {recipe.source.name} has no parameter "{name}"',
                        f"{advice}Its parameters: {own}.",
                    )
                )
        if self.mistakes:
            raise Refusal(self.mistakes, ExitCode.WRONG_FOR_ANY_EXTRACT)


def _loop(definition: Definition, above: tuple[str, ...], sound: set[str]) -> tuple[str, ...]:
    """The names that lead back to one of those above, or nothing; then the definition is `sound`."""
    if definition.name in sound:
        return ()
    if definition.name in above:
        return (*above[above.index(definition.name) :], definition.name)
    for call in _calls(definition.body):
        inner = definition.scope.functions.get(call.function)
        if inner is not None and "." not in call.function:
            chain = _loop(inner, (*above, definition.name), sound)
            if chain:
                return chain
    sound.add(definition.name)
    return ()


def _calls(body: Expression) -> Iterator[Call]:
    return (part for part in parts_of(body) if isinstance(part, Call))


def _identity(path: str) -> str:
    return os.path.realpath(path)


def refuse_outside(path: Path, folder: Path | None, span: SourceSpan) -> None:
    """Refuses a file that is not under the folder to which `--files-under` keeps a recipe; links are followed."""
    if folder is None:
        return
    inside = Path(os.path.realpath(path)).is_relative_to(os.path.realpath(folder))
    if not inside:
        raise wrong_recipe(
            "file-not-allowed",
            f"{path} is not under {folder}, and --files-under allows no file elsewhere",
            "Put a copy of it under that folder, or allow another one, if the recipe is to be trusted with it.",
            span,
        )
