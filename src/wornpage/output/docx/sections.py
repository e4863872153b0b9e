"""Sections: stretches of sheets with columns and a direction of their own."""

from __future__ import annotations

from collections.abc import Callable

from wornpage.output.docx.sheet import Sheet


class Sections:
    """The body as it grows, cut where columns or the direction of sheets change."""

    def __init__(self, sheet: Sheet) -> None:
        self._sheet = sheet
        self._pieces: list[str] = []
        self._done: list[tuple[list[str], str]] = []
        self._is_turned = False
        self._begins_sheet = True
        """Whether the section that is open began on a new sheet."""

    def add(self, pieces: list[str]) -> None:
        """More of the section that is open."""
        self._pieces += pieces

    def end(self, columns: int, turned: bool = False) -> None:
        """What has been added since the last end was a section of so many columns; nothing if nothing was."""
        if not self._pieces:
            return
        kind = "nextPage" if turned or self._is_turned or not self._done else "continuous"
        self._done.append((self._pieces, self._sheet.section(columns, turned, kind, is_first=not self._done)))
        self._pieces, self._is_turned = [], turned

    def xml(self, gap: Callable[[str], str]) -> str:
        """The body; `gap` makes a paragraph that ends a section where nothing else can."""
        kind = "nextPage" if self._is_turned or not self._done else "continuous"
        made = [_ended(pieces, section, gap) for pieces, section in self._done]
        if self._pieces and self._pieces[-1].startswith("<w:tbl>"):
            self._pieces.append(gap(""))
        last = self._sheet.section(self._sheet.columns, False, kind, is_first=not self._done)
        return "".join(made) + "".join(self._pieces) + f"<w:sectPr>{last}</w:sectPr>"


def _ended(pieces: list[str], section: str, gap: Callable[[str], str]) -> str:
    """Pieces whose last paragraph says what the section was."""
    *before, last = pieces
    if last.startswith("<w:p><w:pPr>") and "</w:pPr>" in last:
        head, mark, rest = last.partition("</w:pPr>")
        return "".join(before) + f"{head}<w:sectPr>{section}</w:sectPr>{mark}{rest}"
    return "".join(pieces) + gap(section)
