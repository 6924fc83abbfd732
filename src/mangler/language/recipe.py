"""Reads a whole recipe: cuts it into statements, reads each on its own, and collects every mistake."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from mangler.language.cursor import Cursor
from mangler.language.declaration import Verbs
from mangler.language.items import Chunk, Comments, Item, Step, cut
from mangler.language.mistake import ExitCode, Mistake, Refusal, file_trouble, reason, wrong_recipe
from mangler.language.proofs import misplaced
from mangler.language.source import Source, SourceSpan
from mangler.language.source_text import source_of
from mangler.language.statement import Statement
from mangler.language.statement_reader import read_statement
from mangler.late_dataclass import dataclass

LANGUAGE_VERSION = 1
MOST_STATEMENTS = 5000
"""Those of the files that it includes counted too."""
LARGEST = 4 << 20
"""Bytes of a recipe file."""
ONCE = ("mangler", "read", "write", "tolerate")


@dataclass(frozen=True)
class ParsedRecipe:
    """A recipe without mistakes, as far as they can be known without an extract."""

    source: Source
    items: tuple[Item, ...]
    others: tuple[Source, ...] = ()
    """The files that it includes or imports, and that those do, each once."""

    @property
    def statements(self) -> tuple[Statement, ...]:
        return tuple(item.statement for item in self.items if isinstance(item, Step))

    def only(self, verb: str) -> Statement | None:
        """The statement of a verb that occurs at most once; the first of a verb that may occur more often."""
        return next((statement for statement in self.statements if statement.verb == verb), None)


def load_source(path: Path) -> Source:
    """The text of a recipe file, which is UTF-8."""
    return source_of(str(path), decode(str(path), read_bytes(path)))


def load_named(path: Path, span: SourceSpan) -> Source:
    """The text of a file that a recipe includes or imports.

    Of a file that is not a recipe nothing is quoted: whoever wrote the recipe may not be allowed to read it.
    """
    text = decode(str(path), read_bytes(path))
    lines = (line for line in text.removeprefix("\ufeff").splitlines() if line.strip())
    first = next((line for line in lines if not line.startswith("#")), "")
    if first.split(maxsplit=1)[:1] != ["mangler"]:
        raise wrong_recipe(
            "not-a-recipe",
            f"{path} is not a recipe",
            f"A recipe begins with mangler {LANGUAGE_VERSION}.",
            span,
        )
    return source_of(str(path), text)


def read_bytes(path: Path) -> bytes:
    """What is in a recipe file."""
    try:
        with path.open("rb") as file:
            content = file.read(LARGEST + 1)
    except OSError as error:
        raise file_trouble("file-not-read", f"the recipe {path} cannot be read: {reason(error)}") from None
    except ValueError:  # a NUL in the path
        raise file_trouble(
            "no-such-file-name", f"the recipe {path} cannot be read: no file has a name like this"
        ) from None
    if len(content) > LARGEST:
        raise file_trouble(
            "file-too-large",
            f"the recipe {path} is larger than {LARGEST >> 20} MB",
            "Is it a recipe? A long table of values is in a file of its own: map … from, lookup.",
        )
    return content


def decode(name: str, content: bytes) -> str:
    """The text of a recipe, which is UTF-8."""
    if b"\0" in content:
        line = content.count(b"\n", 0, content.index(b"\0")) + 1
        raise file_trouble(
            "not-text",
            f"the recipe {name} is not a text: line {line} holds a NUL byte",
            "Name the recipe, a text file in UTF-8.",
        )
    try:
        return content.decode("utf-8")
    except UnicodeDecodeError as error:
        line = content.count(b"\n", 0, error.start) + 1
        raise file_trouble(
            "encoding",
            f"the recipe {name} is not UTF-8: line {line} holds the byte {content[error.start]:#04x}",
            "Save it as UTF-8.",
        ) from None


def parse_recipe(source: Source, verbs: Verbs) -> ParsedRecipe:
    """Reads a recipe. All its mistakes are raised together, in the order of the text."""
    recipe, mistakes = parse_in_part(source, verbs)
    failed = bool(mistakes)
    mistakes += _frame_mistakes(recipe, failed)
    if not failed:
        mistakes += misplaced(recipe.items, verbs)
    if mistakes:
        mistakes.sort(key=lambda mistake: mistake.span.start if mistake.span else 0)
        raise Refusal(mistakes, ExitCode.WRONG_FOR_ANY_EXTRACT)
    return recipe


def parse_in_part(source: Source, verbs: Verbs) -> tuple[ParsedRecipe, list[Mistake]]:
    """The statements of a recipe that are right by themselves, and the mistakes in the others."""
    items: list[Item] = []
    mistakes: list[Mistake] = []
    chunks = list(cut(source))
    refuse_too_many([chunk for chunk in chunks if chunk.kind == "statement"], source)
    for chunk in chunks:
        if chunk.kind == "comment":
            lines = tuple(line.rstrip() for line in chunk.text(source).split("\n"))
            items.append(Comments(lines, chunk.blank_before, source.locate(chunk.start)[0]))
        elif chunk.kind == "stray":
            mistakes.append(_stray(source, chunk))
        else:
            try:
                statement = read_statement(Cursor(source, chunk.start, chunk.end), verbs)
                mistakes += verbs.check(statement)
                items.append(Step(statement, chunk.blank_before))
            except Refusal as refusal:
                mistakes += refusal.mistakes
                items.append(Comments((), False))  # keeps the place of a statement that failed
    return ParsedRecipe(source, tuple(items)), mistakes


def refuse_too_many(statements: Sequence[object], source: Source) -> None:
    """Refuses a recipe that would take minutes to read and to bind: somebody's program wrote it."""
    if len(statements) > MOST_STATEMENTS:
        raise wrong_recipe(
            "too-many-statements",
            f"{source.name} has {len(statements):,} statements, and at most {MOST_STATEMENTS:,} are read",
            "Many values go into one statement: map and replace take lists of pairs, and map … from reads a file.",
        )


def _stray(source: Source, chunk: Chunk) -> Mistake:
    text = chunk.text(source)
    indent = len(text) - len(text.lstrip())
    first_line = text.lstrip().split("\n")[0]
    start = chunk.start + indent
    return Mistake(
        "indented-line",
        "this indented line belongs to no statement",
        "A statement starts in the first column. To switch a statement off, put # before all of its lines.",
        SourceSpan(source, start, start + len(first_line.rstrip())),
    )


def _frame_mistakes(recipe: ParsedRecipe, failed: bool) -> list[Mistake]:
    """The recipe starts with its language version, and some statements occur at most once."""
    source, mistakes = recipe.source, []
    first = next((item for item in recipe.items if isinstance(item, Step) or not item.lines), None)
    if first is None or (isinstance(first, Step) and first.statement.verb != "mangler"):
        span = first.statement.span if isinstance(first, Step) else SourceSpan(source, 0, 1)
        if first is not None or not failed:
            mistakes.append(
                Mistake(
                    "version-needed",
                    "a recipe starts with its language version" if first else "this recipe has no statements",
                    f'Write mangler {LANGUAGE_VERSION} "…" with a title as the first statement.',
                    SourceSpan(source, span.start, span.start + 1),
                )
            )
    seen: dict[str, Statement] = {}
    for statement in recipe.statements:
        if statement.verb in ONCE and statement.verb in seen:
            mistakes.append(
                Mistake(
                    "said-twice",
                    f"{statement.verb} is allowed once in a recipe, and line {seen[statement.verb].line} has it",
                    "Put its clauses into one statement.",
                    SourceSpan(source, statement.span.start, statement.span.start + len(statement.verb)),
                )
            )
        seen.setdefault(statement.verb, statement)
    if "mangler" in seen:
        version = seen["mangler"].number("number")
        if version != LANGUAGE_VERSION:
            mistakes.append(
                Mistake(
                    "newer-version",
                    f"this recipe is written in version {version} of the language",
                    f"This Mangler reads version {LANGUAGE_VERSION}: write mangler {LANGUAGE_VERSION}.",
                    seen["mangler"].span_of("number"),
                )
            )
    return mistakes
