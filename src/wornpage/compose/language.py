"""Words, dates and numbers as the page's language writes them."""

from __future__ import annotations

import datetime
from functools import cache
from importlib import import_module

from msgspec import Struct


class Language(Struct, frozen=True, kw_only=True):
    """What the tool itself says in a page, in one language: all words of all outputs."""

    code: str
    """As BCP 47 tags begin."""
    locale: str
    """As Unicode's locale data have it, for dates."""
    right_to_left: bool = False
    decimal: str
    group: str
    """What stands between groups of three digits."""
    percent: str
    """What stands between a number and the percent sign, and the sign."""
    figure: tuple[str, str]
    """Singular and plural; so below."""
    table: tuple[str, str]
    listing: tuple[str, str]
    equation: tuple[str, str]
    section: tuple[str, str]
    appendix: tuple[str, str]
    references: str
    cited_at: str
    """Before the number of a place where an entry is cited."""
    conjunction: str
    contents: str
    abstract: str
    keywords: str
    yes_no: tuple[str, str]
    notes: str
    figures: str
    tables: str
    lines_cut: str
    rows_cut: str
    code_word: str
    running_title: str
    word_count: str
    corresponding: str
    about_here: str
    skip: str
    """To those who go through a page by keys: to the text, past the contents."""
    colophon: str
    """The heading of the record; its words follow."""
    pressed_with: str
    page_word: str
    libraries: str
    none: str
    """Of libraries."""
    given: str
    weaknesses: str
    no_weakness: str
    what: str
    how: str
    file: str
    holds: str
    chunk: str
    seed: str
    shows: str
    nothing: str
    words: dict[str, str]
    """Words of tables, by the names that sessions use."""

    def word(self, name: str) -> str:
        """A word of tables; what follows a colon in its name is put into it."""
        key, _, part = name.partition(":")
        number = part.replace(".", self.decimal)
        return self.words.get(key, key).format(level=f"{number}{self.percent}")


TABLE = {
    "en": "english",
    "de": "german",
    "fr": "french",
    "es": "spanish",
    "it": "italian",
    "pt": "portuguese",
    "nl": "dutch",
    "sv": "swedish",
    "ar": "arabic",
    "he": "hebrew",
}
"""By the beginning of a BCP 47 tag: the file in `languages/`."""


@cache
def language_of(tag: str) -> Language:
    """The language of a BCP 47 tag; English where it is not known."""
    code = tag.split("-", maxsplit=1)[0].lower()
    found: Language = import_module(f"wornpage.compose.languages.{TABLE.get(code, 'english')}").LANGUAGE
    return found


def write_date(day: datetime.date, language: Language) -> str:
    """A day with its month in words."""
    from babel.dates import format_date

    return str(format_date(day, "long", language.locale))


def month_of(day: datetime.date, language: Language) -> str:
    """The name of a day's month."""
    from babel.dates import format_date

    return str(format_date(day, "LLLL", language.locale))


def write_words(number: int, language: Language) -> str:
    """A whole number in words."""
    from num2words import num2words

    return str(num2words(number, lang=language.code)).replace(",", "")


def write_number(text: str, language: Language, grouped: bool = False) -> str:
    """A number that Python wrote, with the language's signs; the minus is a true one."""
    sign, digits = ("\u2212", text[1:]) if text.startswith("-") else ("", text)
    whole, point, rest = digits.partition(".")
    if grouped and whole.isdigit() and len(whole) > 3:
        head = len(whole) % 3
        parts = ([whole[:head]] if head else []) + [whole[i : i + 3] for i in range(head, len(whole), 3)]
        whole = language.group.join(parts)
    return sign + whole + (language.decimal + rest if point else "")
