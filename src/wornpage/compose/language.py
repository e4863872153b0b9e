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
    references: str
    cited_at: str
    """Before the number of a place where an entry is cited."""
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
    running_title: str
    word_count: str
    corresponding: str
    about_here: str
    words: dict[str, str]
    """Words of tables, by the names that sessions use."""

    def word(self, name: str) -> str:
        """A word of tables; what follows a colon in its name is put into it."""
        key, _, part = name.partition(":")
        number = part.replace(".", self.decimal)
        return self.words.get(key, key).format(level=f"{number}{self.percent}")


_ENGLISH = Language(
    "en", ".", ",", "%", ("Figure", "Figures"), ("Table", "Tables"), ("Listing", "Listings"),
    ("Equation", "Equations"), ("Section", "Sections"), ("Appendix", "Appendices"), "References", "back to citation", "and", "Contents", "Abstract", "Keywords", ("yes", "no"),
    tuple("January February March April May June July August September October November December".split()),
    "{day} {month} {year}", "Notes", "Figures", "Tables", "{count} more lines", "{count} more rows", "Code",
    "Running title", "{count} words", "Correspondence", "[{what} about here]",
    {
        "edition": "Edition", "files": "Files", "not pressed": "not pressed", "editions": "Editions",
        "estimate": "Estimate", "error": "Std. error", "p": "p", "interval": "{level} interval", "n": "n",
        "missing": "Missing", "mean": "Mean", "sd": "SD", "least": "Min.", "median": "Median", "most": "Max.",
        "share": "Share", "total": "Total", "moments": "Mean (SD).", "shares": "n (share).", "moments and shares": "Mean (SD), or n (share).", "df": "Degrees of freedom",
        "nobs": "Observations", "rsquared": "R²", "rsquared_adj": "Adjusted R²",
        "prsquared": "Pseudo R²", "fvalue": "F", "aic": "AIC", "bic": "BIC", "llf": "Log-likelihood",
        "errors below": "Standard errors in brackets.", "intervals below": "{level} intervals in brackets.",
        "stars": "* p < 0.05, ** p < 0.01, *** p < 0.001.",
    },
)  # fmt: skip
_GERMAN = Language(
    "de", ",", ".", "\u00a0%", ("Abbildung", "Abbildungen"), ("Tabelle", "Tabellen"), ("Programm", "Programme"),
    ("Gleichung", "Gleichungen"), ("Abschnitt", "Abschnitte"), ("Anhang", "Anhänge"), "Literatur", "zurück zum Zitat", "und", "Inhalt", "Zusammenfassung", "Schlagwörter",
    ("ja", "nein"),
    tuple("Januar Februar März April Mai Juni Juli August September Oktober November Dezember".split()),
    "{day}. {month} {year}", "Anmerkungen", "Abbildungen", "Tabellen", "{count} weitere Zeilen", "{count} weitere Zeilen",
    "Code", "Kurztitel", "{count} Wörter", "Korrespondenz", "[{what} etwa hier]",
    {
        "edition": "Ausgabe", "files": "Dateien", "not pressed": "nicht erstellt", "editions": "Ausgaben",
        "estimate": "Schätzung", "error": "Std.-Fehler", "p": "p", "interval": "{level}-Intervall", "n": "n",
        "missing": "Fehlend", "mean": "Mittel", "sd": "SD", "least": "Min.", "median": "Median", "most": "Max.",
        "share": "Anteil", "total": "Summe", "moments": "Mittel (SD).", "shares": "n (Anteil).", "moments and shares": "Mittel (SD) oder n (Anteil).", "df": "Freiheitsgrade",
        "nobs": "Beobachtungen", "rsquared": "R²",
        "rsquared_adj": "Korrigiertes R²", "prsquared": "Pseudo-R²", "fvalue": "F", "aic": "AIC", "bic": "BIC",
        "llf": "Log-Likelihood", "errors below": "Standardfehler in Klammern.",
        "intervals below": "{level}-Intervalle in Klammern.", "stars": "* p < 0,05, ** p < 0,01, *** p < 0,001.",
    },
)  # fmt: skip
_FRENCH = Language(
    "fr", ",", "\u202f", "\u202f%", ("Figure", "Figures"), ("Tableau", "Tableaux"), ("Programme", "Programmes"),
    ("Équation", "Équations"), ("Section", "Sections"), ("Annexe", "Annexes"), "Références", "retour à la citation", "et", "Table des matières", "Résumé", "Mots-clés",
    ("oui", "non"),
    tuple("janvier février mars avril mai juin juillet août septembre octobre novembre décembre".split()),
    "{day} {month} {year}", "Notes", "Figures", "Tableaux", "{count} lignes de plus", "{count} lignes de plus", "Code",
    "Titre courant", "{count} mots", "Correspondance", "[{what} vers ici]",
    {
        "edition": "Édition", "files": "Fichiers", "not pressed": "non réalisée", "editions": "Éditions",
        "estimate": "Estimation", "error": "Erreur type", "p": "p", "interval": "Intervalle à {level}", "n": "n",
        "missing": "Manquants", "mean": "Moyenne", "sd": "Écart type", "least": "Min.", "median": "Médiane",
        "most": "Max.", "share": "Part", "total": "Total", "moments": "Moyenne (écart type).", "shares": "n (part).", "moments and shares": "Moyenne (écart type), ou n (part).", "df": "Degrés de liberté",
        "nobs": "Observations", "rsquared": "R²",
        "rsquared_adj": "R² ajusté", "prsquared": "Pseudo-R²", "fvalue": "F", "aic": "AIC", "bic": "BIC",
        "llf": "Log-vraisemblance", "errors below": "Erreurs types entre parenthèses.",
        "intervals below": "Intervalles à {level} entre crochets.",
        "stars": "* p < 0,05, ** p < 0,01, *** p < 0,001.",
    },
)  # fmt: skip
_SPANISH = Language(
    "es", ",", ".", "\u00a0%", ("Figura", "Figuras"), ("Tabla", "Tablas"), ("Programa", "Programas"),
    ("Ecuación", "Ecuaciones"), ("Sección", "Secciones"), ("Apéndice", "Apéndices"), "Referencias", "volver a la cita", "y", "Índice", "Resumen", "Palabras clave", ("sí", "no"),
    tuple("enero febrero marzo abril mayo junio julio agosto septiembre octubre noviembre diciembre".split()),
    "{day} de {month} de {year}", "Notas", "Figuras", "Tablas", "{count} líneas más", "{count} filas más", "Código",
    "Título abreviado", "{count} palabras", "Correspondencia", "[{what} aproximadamente aquí]",
    {
        "edition": "Edición", "files": "Archivos", "not pressed": "sin realizar", "editions": "Ediciones",
        "estimate": "Estimación", "error": "Error est.", "p": "p", "interval": "Intervalo del {level}", "n": "n",
        "missing": "Faltan", "mean": "Media", "sd": "DE", "least": "Mín.", "median": "Mediana", "most": "Máx.",
        "share": "Proporción", "total": "Total", "moments": "Media (DE).", "shares": "n (proporción).", "moments and shares": "Media (DE), o n (proporción).", "df": "Grados de libertad",
        "nobs": "Observaciones", "rsquared": "R²",
        "rsquared_adj": "R² ajustado", "prsquared": "Pseudo R²", "fvalue": "F", "aic": "AIC", "bic": "BIC",
        "llf": "Log-verosimilitud", "errors below": "Errores estándar entre paréntesis.",
        "intervals below": "Intervalos del {level} entre corchetes.",
        "stars": "* p < 0,05, ** p < 0,01, *** p < 0,001.",
    },
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
