"""Words, dates and numbers as the page's language writes them."""

from __future__ import annotations

import datetime
from functools import cache
from importlib import import_module

from wornpage.tree.language import Language

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
    sign, digits = (language.minus, text[1:]) if text.startswith("-") else ("", text)
    if not digits.strip("0."):
        sign = ""  # what is nothing when it is rounded is neither more nor less than nothing
    whole, point, rest = digits.partition(".")
    if grouped and whole.isdigit() and len(whole) > 3:
        head = len(whole) % 3
        parts = ([whole[:head]] if head else []) + [whole[i : i + 3] for i in range(head, len(whole), 3)]
        whole = language.group.join(parts)
    return sign + whole + (language.decimal + rest if point else "")


__all__ = ["TABLE", "Language", "language_of", "month_of", "write_date", "write_number", "write_words"]
