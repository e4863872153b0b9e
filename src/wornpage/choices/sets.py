"""Which editions a page has: their given values and their names, each with its place."""

from __future__ import annotations

import datetime
import itertools
import math
from collections.abc import Iterator, Mapping, Sequence
from fnmatch import fnmatchcase

from msgspec import Struct

from wornpage.choices.expressions import rows_from
from wornpage.choices.naming import safe_name, unlike
from wornpage.choices.tables import TableFault, rows_of
from wornpage.compose.language import language_of
from wornpage.compose.values import FormFault, write_value
from wornpage.plan.conditions import ConditionFault, holds, value_of
from wornpage.session.results import Answer
from wornpage.settings import Settings
from wornpage.settings.givens import GivenFault
from wornpage.source import Page
from wornpage.tree.brackets import split_form, value_marks
from wornpage.tree.problem import Problem, UsageError, near_miss, stop_on_errors
from wornpage.tree.span import Span

_MOST = 100_000
"""Editions that lists may combine to."""


class Edition(Struct, frozen=True):
    """One set of given values."""

    name: str
    """That of its files, without ending; no other edition has it."""
    given: dict[str, object]
    """What is given, as written."""
    values: dict[str, object]
    """All given values of the edition."""


def editions_of(page: Page, settings: Settings) -> list[Edition]:
    """The editions of `page`, in the order of their declaration. Raises `PageError` with everything wrong with them."""
    problems: list[Problem] = []
    found: list[Edition] = []
    taken: set[str] = set()
    for span, row in _rows(page, settings, problems):
        values = _values(settings, row, span, problems)
        if values is None or not _holds(settings.page.editions.where, values, settings, problems):
            continue
        name = unlike(safe_name(_name(settings, row, values, problems)), taken)
        found.append(Edition(name, row, values))
    stop_on_errors(dict.fromkeys(problems))
    return found


def chosen(found: list[Edition], patterns: Sequence[str], where: Sequence[str]) -> list[Edition]:
    """Those whose name fits one of `patterns`, if there are any, and for which all of `where` is true.

    Raises `UsageError` for what makes no sense.
    """
    kept = [one for one in found if not patterns or any(fnmatchcase(one.name, pattern) for pattern in patterns)]
    for condition in where:
        try:
            kept = [one for one in kept if holds(condition, one.values)]
        except ConditionFault as fault:
            raise UsageError(f"--where cannot be {condition!r}: {fault}.") from None
    if found and patterns and not kept and not where:
        hint = near_miss(patterns[0], [one.name for one in found]) or f"There are: {_several([o.name for o in found])}."
        raise UsageError(f"no edition is called {patterns[0]!r}. {hint}")
    return kept


def _several(names: list[str]) -> str:
    return ", ".join(names[:8]) + (f" and {len(names) - 8} more" if len(names) > 8 else "")


# --- where they come from ---------------------------------------------------------------------


def _rows(page: Page, settings: Settings, problems: list[Problem]) -> Iterator[tuple[Span, dict[str, object]]]:
    """Given values as written, and their place."""
    asked = settings.page.editions
    sources = [name for name in ("sets", "table", "combine", "expression") if getattr(asked, name)]
    if len(sources) != 1:
        what = "editions come from several places." if sources else "this page declares no editions."
        hint = "Write one of `sets:`, `table:`, `combine:` and `expression:` under `editions:` in the front matter."
        problems.append(Problem(settings.place("editions"), what, hint))
        return
    if asked.sets:
        for number, row in enumerate(asked.sets):
            yield settings.place("editions", "sets", number), {name: _raw(value) for name, value in row.items()}
    elif asked.combine:
        lists = [value if isinstance(value, list) else [value] for value in asked.combine.values()]
        count = math.prod(map(len, lists))
        if count > _MOST:
            what = f"these lists combine to {count:,} editions, and no more than {_MOST:,} can be."
            hint = "Take values away, or name the editions that are wanted in a `table:`."
            problems.append(Problem(settings.place("editions", "combine"), what, hint))
            return
        for values in itertools.product(*lists):
            yield (
                settings.place("editions", "combine"),
                {name: _raw(value) for name, value in zip(asked.combine, values, strict=True)},
            )
    elif asked.table:
        yield from _of_table(page, settings, problems)
    else:
        for row in rows_from(page, settings, asked.expression, settings.place("editions", "expression")):
            yield settings.place("editions", "expression"), _known(row, settings)


def _of_table(page: Page, settings: Settings, problems: list[Problem]) -> Iterator[tuple[Span, dict[str, object]]]:
    name = settings.page.editions.table
    at = settings.place("editions", "table")
    try:
        rows = rows_of(page.path.parent / name)
    except TableFault as fault:
        problems.append(Problem(Span(name, fault.line) if fault.line else at, f"{fault.what}."))
        return
    columns = list(dict.fromkeys(column for _, row in rows for column in row))
    if rows and not any(_given_of(column, settings) for column in columns):
        hint = f"Its columns: {', '.join(columns)}. Givens: {', '.join(settings.declared) or 'none'}."
        problems.append(Problem(at, f"no column of {name!r} is called as a given of this page.", hint))
    for line, row in rows:
        yield Span(name, line), _known(row, settings)


def _known(row: Mapping[str, object], settings: Settings) -> dict[str, object]:
    """The cells that are given values; other columns are there for other purposes."""
    return {name: value for column, value in row.items() if (name := _given_of(column, settings))}


def _given_of(column: str, settings: Settings) -> str:
    return next((name for name in settings.declared if column in {name, name.replace("-", "_")}), "")


def _raw(value: object) -> object:
    if isinstance(value, list):
        return [_raw(item) for item in value]
    return value["raw"] if isinstance(value, dict) and "raw" in value else str(value)


# --- values and names -------------------------------------------------------------------------


def _values(
    settings: Settings, row: Mapping[str, object], span: Span, problems: list[Problem]
) -> dict[str, object] | None:
    values = dict(settings.given)
    before = len(problems)
    for name, text in row.items():
        if name not in settings.declared:
            hint = near_miss(name, settings.declared) or f"There are: {', '.join(settings.declared) or 'none'}."
            problems.append(Problem(span, f"this page has no given {name!r}.", hint))
            continue
        try:
            values[name] = settings.declared[name].value(text)
        except GivenFault as fault:
            problems.append(Problem(span, fault.what, fault.hint))
    missing = [name for name, one in settings.declared.items() if one.required and values[name] is None]
    problems += [Problem(span, f"{name} must be given in each edition.") for name in missing if name not in row]
    return values if len(problems) == before else None


def _holds(condition: str, values: dict[str, object], settings: Settings, problems: list[Problem]) -> bool:
    try:
        return not condition or holds(condition, values)
    except ConditionFault as fault:
        problems.append(Problem(settings.place("editions", "where"), f"`where` cannot be {condition!r}: {fault}."))
        return False


def _name(settings: Settings, row: Mapping[str, object], values: dict[str, object], problems: list[Problem]) -> str:
    """What an edition is called: as the page says, or by its values."""
    wished = settings.page.editions.name
    if not wished:
        return "-".join(_words(values[name], "", settings) for name in row)
    try:
        return _filled(wished, values, settings)
    except (ConditionFault, FormFault) as fault:
        problems.append(Problem(settings.place("editions", "name"), f"the name of an edition cannot be made: {fault}."))
        return ""


def _filled(text: str, values: dict[str, object], settings: Settings) -> str:
    """`text` with its value marks answered; they see given values alone."""
    made, at = "", 0
    for start, end, _ in value_marks(text):
        if end < 0:
            raise FormFault(f"the brace before `{text[start + 3 :][:40]}` is never closed")
        expression, form = split_form(text[start + 3 : end - 1].strip())
        made += text[at:start] + _words(value_of(expression, values), form, settings)
        at = end
    return made + text[at:]


def _words(value: object, form: str, settings: Settings) -> str:
    if isinstance(value, list):
        return ", ".join(_words(item, form, settings) for item in value)
    if isinstance(value, datetime.date):
        return value.isoformat()
    kinds = {bool: "truth", int: "whole", float: "number", type(None): "missing"}
    if form[:1] in {'"', "'"}:
        try:
            return format(value, form[1:-1])
        except (ValueError, TypeError) as error:
            raise FormFault(f"the form {form} does not fit {value!r}: {error}") from None
    return write_value(Answer(kinds.get(type(value), "text"), value), form, None, language_of(settings.page.language))
