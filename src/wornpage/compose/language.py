"""Words, dates and numbers as the page's language writes them."""

from __future__ import annotations

import datetime

from msgspec import Struct


class Language(Struct, frozen=True):
    """What the tool itself says in a page, in one language."""

    code: str
    decimal: str
    group: str
    percent: str
    """What stands between a number and the percent sign, and the sign."""
    figure: tuple[str, str]
    """Singular and plural; so below."""
    table: tuple[str, str]
    listing: tuple[str, str]
    equation: tuple[str, str]
    section: tuple[str, str]
    appendix: tuple[str, str]
    conjunction: str
    contents: str
    abstract: str
    keywords: str
    yes_no: tuple[str, str]
    months: tuple[str, ...]
    date: str
    notes: str
    figures: str
    tables: str
    lines_cut: str
    rows_cut: str
    code_word: str


_ENGLISH = Language(
    "en", ".", ",", "%", ("Figure", "Figures"), ("Table", "Tables"), ("Listing", "Listings"),
    ("Equation", "Equations"), ("Section", "Sections"), ("Appendix", "Appendices"), "and", "Contents", "Abstract", "Keywords", ("yes", "no"),
    tuple("January February March April May June July August September October November December".split()),
    "{day} {month} {year}", "Notes", "Figures", "Tables", "{count} more lines", "{count} more rows", "Code",
)  # fmt: skip
_GERMAN = Language(
    "de", ",", ".", "\u00a0%", ("Abbildung", "Abbildungen"), ("Tabelle", "Tabellen"), ("Programm", "Programme"),
    ("Gleichung", "Gleichungen"), ("Abschnitt", "Abschnitte"), ("Anhang", "Anhänge"), "und", "Inhalt", "Zusammenfassung", "Schlagwörter",
    ("ja", "nein"),
    tuple("Januar Februar März April Mai Juni Juli August September Oktober November Dezember".split()),
    "{day}. {month} {year}", "Anmerkungen", "Abbildungen", "Tabellen", "{count} weitere Zeilen", "{count} weitere Zeilen",
    "Code",
)  # fmt: skip
_FRENCH = Language(
    "fr", ",", "\u202f", "\u202f%", ("Figure", "Figures"), ("Tableau", "Tableaux"), ("Programme", "Programmes"),
    ("Équation", "Équations"), ("Section", "Sections"), ("Annexe", "Annexes"), "et", "Table des matières", "Résumé", "Mots-clés",
    ("oui", "non"),
    tuple("janvier février mars avril mai juin juillet août septembre octobre novembre décembre".split()),
    "{day} {month} {year}", "Notes", "Figures", "Tableaux", "{count} lignes de plus", "{count} lignes de plus", "Code",
)  # fmt: skip
_SPANISH = Language(
    "es", ",", ".", "\u00a0%", ("Figura", "Figuras"), ("Tabla", "Tablas"), ("Programa", "Programas"),
    ("Ecuación", "Ecuaciones"), ("Sección", "Secciones"), ("Apéndice", "Apéndices"), "y", "Índice", "Resumen", "Palabras clave", ("sí", "no"),
    tuple("enero febrero marzo abril mayo junio julio agosto septiembre octubre noviembre diciembre".split()),
    "{day} de {month} de {year}", "Notas", "Figuras", "Tablas", "{count} líneas más", "{count} filas más", "Código",
)  # fmt: skip

LANGUAGES = {language.code: language for language in (_ENGLISH, _GERMAN, _FRENCH, _SPANISH)}


def language_of(tag: str) -> Language:
    """The language of a BCP 47 tag; English where it is not known."""
    return LANGUAGES.get(tag.split("-", maxsplit=1)[0].lower(), _ENGLISH)


def write_date(day: datetime.date, language: Language) -> str:
    """A day with its month in words."""
    return language.date.format(day=day.day, month=language.months[day.month - 1], year=day.year)


def write_number(text: str, language: Language, grouped: bool = False) -> str:
    """A number that Python wrote, with the language's signs; the minus is a true one."""
    sign, digits = ("\u2212", text[1:]) if text.startswith("-") else ("", text)
    whole, point, rest = digits.partition(".")
    if grouped and whole.isdigit() and len(whole) > 3:
        head = len(whole) % 3
        parts = ([whole[:head]] if head else []) + [whole[i : i + 3] for i in range(head, len(whole), 3)]
        whole = language.group.join(parts)
    return sign + whole + (language.decimal + rest if point else "")
