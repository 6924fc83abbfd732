"""Names of months and days by language tag, as the Unicode consortium's locale data has them."""

from __future__ import annotations

from mangler.kernels.values.date_names import DateNames
from mangler.language.literals import Text
from mangler.language.mistake import wrong_recipe


def date_names(tag: Text) -> DateNames:
    """The names of a language, in dates and standing alone, whole and shortened. A tag that nobody has is refused."""
    try:
        from babel import Locale, UnknownLocaleError
    except ImportError:
        raise wrong_recipe(
            "languages-not-installed",
            "names of months in other languages need a library that is not installed",
            'Install it with the extra: pip install "mangler[languages]".',
            tag.span,
        ) from None
    try:
        locale = Locale.parse(tag.value.replace("-", "_"))
    except (UnknownLocaleError, ValueError, TypeError):
        raise wrong_recipe(
            "unknown-language",
            f'"{tag.value}" is not a language whose names are known',
            'A language is named by its tag: "de", "fr", "pt-BR".',
            tag.span,
        ) from None
    months: dict[str, int] = {}
    weekdays: list[str] = []
    for place in ("format", "stand-alone"):
        for width in ("abbreviated", "wide"):
            months.update({name: number for number, name in locale.months[place][width].items()})
            weekdays += locale.days[place][width].values()
    return DateNames.of(months, weekdays)
