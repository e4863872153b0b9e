"""Values as cells hold them: numbers as numbers in a format, days as days, and text that is never a formula."""

from __future__ import annotations

import datetime
import math
import re
from collections.abc import Iterable

from msgspec import Struct

from wornpage.output.kind import Result
from wornpage.tree.nodes import SheetCell

DAY, MOMENT, SECOND = "yyyy-mm-dd", "yyyy-mm-dd hh:mm", "yyyy-mm-dd hh:mm:ss"
GENERAL = ""
_FIRST = datetime.date(1900, 3, 1)
"""Days before it are counted otherwise by some programs."""
_ZERO = datetime.datetime(1899, 12, 30)
_MOST_DIGITS = 15
"""Digits of a number that workbooks keep."""
LONGEST = 32_767
"""Letters of a cell."""
_SPECIFICATION = re.compile(r"([+ ]?)#?0?\d*([,_]?)(?:\.(\d+))?([defgn%]?)", re.IGNORECASE)


class Held(Struct, frozen=True):
    """What a cell holds."""

    value: str | int | float | bool | None
    format: str = GENERAL
    """Of a number; a day is a number."""


def held(value: object, kind: str, format_: str = GENERAL) -> Held:
    """A value of one of the kinds that sessions tell of."""
    if value is None or kind == "missing":
        return Held(None)
    if isinstance(value, bool):
        return Held(value)
    if isinstance(value, int | float):
        return _number(value, format_)
    text = str(value)
    if kind in {"date", "moment"}:
        return _moment(text, format_)
    if kind in {"number", "whole"} and re.fullmatch(r"-?\d+(\.\d+)?", text):
        digits = len(text.replace("-", "").replace(".", "").lstrip("0"))
        places = len(text.partition(".")[2])
        return (
            _number(float(text) if places else int(text), format_ or fixed(places))
            if digits <= _MOST_DIGITS
            else Held(text)
        )
    return Held(text)


def of_result(one: Result | SheetCell) -> Held:
    """A value that the settings, or code, ask for."""
    value, kind = one.value, one.type
    if kind == "faces" and isinstance(value, dict):
        value, kind = (value["number"], "number") if value["number"] else (value["text"], "text")
    return held(value, kind, of_form(one.form, None))


def _number(value: float, format_: str) -> Held:
    if isinstance(value, float) and not math.isfinite(value):
        return Held(None if math.isnan(value) else "∞" if value > 0 else "−∞")
    if isinstance(value, int) and abs(value) >= 10**_MOST_DIGITS:
        return Held(str(value))
    return Held(value, format_)


def _moment(text: str, format_: str) -> Held:
    """A day, a moment, or a time of day; the text itself for what has a zone, or lies before workbooks count."""
    try:
        moment = datetime.datetime.fromisoformat(text)
    except ValueError:
        return Held(text)
    if moment.tzinfo is not None or moment.date() < _FIRST:
        return Held(text)
    if len(text) <= len("2026-01-31"):
        return Held((moment - _ZERO).days, format_ or DAY)
    passed = moment - _ZERO
    days = passed.days + (passed.seconds + passed.microseconds / 1e6) / 86_400
    return Held(round(days, 9), format_ or (SECOND if moment.second or moment.microsecond else MOMENT))


# --- formats --------------------------------------------------------------------------------------


def fixed(places: int | None, grouped: bool = False) -> str:
    """The format of numbers with so many places; of any number for None."""
    if places is None:
        return GENERAL
    whole = "#,##0" if grouped else "0"
    return f"{whole}.{'0' * places}" if places else whole


def of_form(form: str, places: int | None) -> str:
    """The format for numbers that are written in a form of ours; empty for plainly."""
    if form == "percent":
        return fixed(1 if places is None else places) + "%"
    if form == "thousands":
        return fixed(places or 0, grouped=True)
    if form == "p-value":
        return '[<0.001]"< 0.001";0.000'
    if form.endswith(("decimal", "decimals")):
        return fixed(int(form.split(maxsplit=1)[0]))
    if form[:1] in {"'", '"'}:
        return _of_specification(form[1:-1])
    return fixed(places)


def _of_specification(text: str) -> str:
    found = _SPECIFICATION.fullmatch(text.strip("{:}"))
    if found is None:
        return GENERAL
    sign, group, places, kind = found.groups()
    count = int(places) if places else 0 if kind in {"d", "n"} else 6 if kind else None
    made = "0." + "0" * (count or 0) + "E+00" if kind.lower() == "e" else fixed(count, bool(group))
    made += "%" if kind == "%" else ""
    return f"+{made};-{made};{made}" if sign == "+" and made else made


def of_moments(texts: Iterable[str]) -> str:
    """The format for days, or for moments as closely as any of them is told."""
    times = {text[10:].lstrip("T ") for text in texts} - {"", "00:00", "00:00:00"}
    if not times:
        return DAY
    return MOMENT if all(len(time) <= len("10:30") or time.endswith(":00") for time in times) else SECOND


def with_marks(format_: str, marks: str, brackets: bool) -> str:
    """A format whose numbers have letters or stars behind them, or stand in brackets."""
    if not marks and not brackets:
        return format_
    behind = (")" if brackets else "") + marks
    quoted = behind.replace('"', "")
    return f'{chr(34) + "(" + chr(34) if brackets else ""}{format_ or "General"}"{quoted}"'
