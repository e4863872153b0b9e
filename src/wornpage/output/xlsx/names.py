"""Names of sheets and of cells that every program takes, and that no two of a workbook share."""

from __future__ import annotations

import re

_UNFIT = re.compile(r"[\[\]:*?/\\\x00-\x1f]+")
_LONGEST = 31
_RESERVED = {"history"}
_PLACE_LIKE = re.compile(r"[A-Za-z]{1,3}\d+|[Rr]\d*[Cc]\d*|[RrCc]")


class SheetNames:
    """The sheets of one workbook."""

    def __init__(self, taken: tuple[str, ...] = ()) -> None:
        self._taken = {name.lower() for name in taken} | _RESERVED

    def of(self, words: str) -> str:
        """A name for a sheet, as near to the words as can be."""
        plain = _UNFIT.sub(" ", words).strip(" '") or "Sheet"
        name, at = plain[:_LONGEST].strip(" '"), 2
        while name.lower() in self._taken:
            behind = f" ({at})"
            name, at = plain[: _LONGEST - len(behind)].strip() + behind, at + 1
        self._taken.add(name.lower())
        return name


def quoted(sheet: str) -> str:
    """A sheet's name before a place in it."""
    return "'" + sheet.replace("'", "''") + "'"


def cell_name(words: str, taken: set[str]) -> str:
    """A name for a cell, made of words."""
    plain = re.sub(r"[^\w.]+", "_", words).strip("_") or "value"
    if not (plain[0].isalpha() or plain[0] == "_") or _PLACE_LIKE.fullmatch(plain):
        plain = f"_{plain}"
    name, at = plain[:200], 2
    while name.lower() in taken:
        name, at = f"{plain[:200]}_{at}", at + 1
    taken.add(name.lower())
    return name
