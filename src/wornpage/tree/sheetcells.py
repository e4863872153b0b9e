"""Places in workbooks, as people write them: `Results!B3`, `'This year'!$B$3`, or a name that the workbook has given to one."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import lru_cache

_PLACE = re.compile(r"(?:(?:'((?:[^']|'')+)'|([^'!]+))!)?\$?([A-Za-z]{1,3})\$?([1-9]\d{0,6})")
_NAME = re.compile(r"[^\W\d][\w.]*")
LAST_COLUMN, LAST_ROW = 16_384, 1_048_576


@dataclass(frozen=True)
class Place:
    """One cell, or a name for one."""

    sheet: str
    """Empty for the first sheet."""
    column: int
    """Counted from 1; 0 where it is known by name."""
    row: int
    name: str = ""


def place_of(text: str) -> Place:
    """The place that a text names. Raises `ValueError`."""
    found = _PLACE.fullmatch(text.strip())
    if found is None:
        if _NAME.fullmatch(text.strip()):
            return Place("", 0, 0, text.strip())
        raise ValueError(f"{text!r} is no place in a workbook: write `Results!B3`, or a name that it has")
    column, row = column_of(found[3]), int(found[4])
    if column > LAST_COLUMN or row > LAST_ROW:
        raise ValueError(f"{text!r} lies beyond the last cell of a sheet, XFD1048576")
    return Place((found[1] or found[2] or "").replace("''", "'"), column, row)


def column_of(letters: str) -> int:
    """The number of a column, counted from 1."""
    number = 0
    for letter in letters.upper():
        number = number * 26 + ord(letter) - 64
    return number


@lru_cache(1_024)
def letters_of(column: int) -> str:
    """The letters of a column, counted from 1."""
    made = ""
    while column:
        column, rest = divmod(column - 1, 26)
        made = chr(65 + rest) + made
    return made
