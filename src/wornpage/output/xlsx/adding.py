"""Looks that filled cells need beside those that a workbook has: the same as before, with another format for numbers."""

from __future__ import annotations

from copy import deepcopy

from wornpage.output.ooxml.reading import Element, parsed, serialized
from wornpage.output.xlsx.styles import MAIN

_ = f"{{{MAIN}}}"
_FIRST_OWN = 164


class Formats:
    """The looks of a workbook."""

    def __init__(self, parts: dict[str, bytes], part: str) -> None:
        self._part = part
        self._root: Element = parsed(parts[part]) if part in parts else None
        self._made: dict[tuple[int, str], int] = {}

    def with_format(self, look: int, format_: str) -> int:
        """The number of a look as `look`, with a format; a cell that has a format of its own keeps it."""
        if self._root is None:
            return look
        if (look, format_) not in self._made:
            self._made[look, format_] = self._new(look, format_)
        return self._made[look, format_]

    def _new(self, look: int, format_: str) -> int:
        looks = self._root.find(f"{_}cellXfs")
        before = looks[look] if look < len(looks) else looks[0]
        if before.get("numFmtId", "0") != "0":
            return look
        made = deepcopy(before)
        made.set("numFmtId", str(self._format(format_)))
        made.set("applyNumberFormat", "1")
        looks.append(made)
        looks.set("count", str(len(looks)))
        return len(looks) - 1

    def _format(self, format_: str) -> int:
        formats = self._root.find(f"{_}numFmts")
        if formats is None:
            formats = self._root.makeelement(f"{_}numFmts", {})
            self._root.insert(0, formats)
        for one in formats:
            if one.get("formatCode") == format_:
                return int(one.get("numFmtId"))
        number = max([_FIRST_OWN - 1, *(int(one.get("numFmtId")) for one in formats)]) + 1
        formats.append(formats.makeelement(f"{_}numFmt", {"numFmtId": str(number), "formatCode": format_}))
        formats.set("count", str(len(formats)))
        return number

    def changed(self) -> dict[str, bytes]:
        """The part, if it is another."""
        return {self._part: serialized(self._root)} if self._made else {}
