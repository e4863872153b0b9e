"""Tables: heads that are repeated on each sheet, numbers in line, groups, notes below."""

from __future__ import annotations

import re

from wornpage.output.docx.running import Running
from wornpage.output.docx.xml import PLAIN, Look, Properties, paragraph, twips
from wornpage.output.ooxml.xml import escaped
from wornpage.output.widths import Fit, fit
from wornpage.tree import nodes as n
from wornpage.tree.walk import words_of

_SIDES = {"left": "left", "right": "right", "centre": "center"}
_POINT = 2.54 / 72
_EM, _BOLD_EM = 0.52, 0.64
"""Width of a figure, and of a bold letter, in ems."""
_PADDING = 1.1
"""Ems of room at the sides of a column."""
_INDENT = "\u2003"
_NUMBER = re.compile(r"[-+−–]?\d[\d\u00a0\u202f .,'’]*(?:\s?%)?")
"""A number alone, as it is written in any language."""


class Table:
    """One table, written at the width that there is."""

    def __init__(
        self, running: Running, table: n.TextTable, room: float, usual: float, decimal: str, alt: str = ""
    ) -> None:
        self.running, self.table, self.decimal, self.alt = running, table, decimal, alt
        self.room, self.usual = room, usual
        self.fit: Fit = fit(table, room)
        self._behind = [self._behind_sign(column) for column in range(len(table.aligns))]

    def parts(self) -> list[str]:
        """The table; as several below each other where it is too wide even in small letters."""
        return [self._part(group) for group in self.fit.groups]

    @property
    def lead(self) -> int:
        """Twips from the edge of the text to the table, which stands in the middle."""
        widths = self._widths(self.fit.groups[0]) if self.table.aligns else []
        return max(twips(self.room) - sum(widths), 0) // 2 if widths else 0

    def notes(self) -> list[str]:
        """What stands below it, as runs."""
        raised = Look(height="superscript")
        lines = [self.running.text(mark, raised) + self.running.words(words) for mark, words in self.table.notes]
        return [*lines, self.running.text(f"… {self.table.note}")] if self.table.note else lines

    def _part(self, group: tuple[int, ...]) -> str:
        widths = self._widths(group)
        grid = "".join(f'<w:gridCol w:w="{width}"/>' for width in widths)
        heads = "".join(self._head(row, group, widths, row is self.table.heads[-1]) for row in self.table.heads)
        rows = "".join(self._row(number, group, widths) for number in range(len(self.table.rows)))
        about = f'<w:tblCaption w:val="{escaped(self.alt[:250])}"/>' if self.alt else ""
        ids = self.running.ids
        mirrored = "<w:bidiVisual/>" if self.running.rtl else ""
        has_index = int(self.table.index_columns > 0)
        return (
            f'<w:tbl><w:tblPr><w:tblStyle w:val="{ids["RuledTable"]}"/>{mirrored}<w:tblW w:w="{sum(widths)}" w:type="dxa"/>'
            f'<w:jc w:val="center"/><w:tblLayout w:type="fixed"/>'
            f'<w:tblLook w:val="04A0" w:firstRow="{int(bool(self.table.heads))}" w:lastRow="0" w:firstColumn="{has_index}" '
            f'w:lastColumn="0" w:noHBand="1" w:noVBand="1"/>{about}</w:tblPr><w:tblGrid>{grid}</w:tblGrid>{heads}{rows}</w:tbl>'
        )

    def _widths(self, group: tuple[int, ...]) -> list[int]:
        """Twips of each column: what it needs; columns of text share what is left."""
        em = self.fit.size * _POINT
        widths = [max(self.fit.needs[place], self._head_needs(place)) * em * 1.06 + 0.12 for place in group]
        over = sum(widths) - self.room
        wraps = [at for at, place in enumerate(group) if place in self.fit.wraps]
        if wraps and over < 0:
            for at in wraps:
                widths[at] += -over / len(wraps)
        elif over > 0:
            widths = [width * self.room / sum(widths) for width in widths]
        return [twips(width) for width in widths]

    def _head_needs(self, column: int) -> float:
        """Ems of the longest word of a column's own heads, which are bold."""
        longest = 0
        for row in self.table.heads:
            at = 0
            for cell in row:
                if at == column and cell.span == 1:
                    longest = max([longest, *map(len, words_of(cell.text).split())])
                at += cell.span
        return longest * _BOLD_EM + _PADDING if longest else 0.0

    # --- rows ---------------------------------------------------------------------------------

    def _head(self, row: tuple[n.HeadCell, ...], group: tuple[int, ...], widths: list[int], is_last: bool) -> str:
        """A row of heads; those over several columns have a line below, and so has the last row."""
        cells, column = [], 0
        for cell in row:
            covered = [group.index(place) for place in range(column, column + cell.span) if place in group]
            column += cell.span
            if not covered:
                continue
            width = sum(widths[at] for at in covered)
            spans = f'<w:gridSpan w:val="{len(covered)}"/>' if len(covered) > 1 else ""
            line = ""
            if is_last or (cell.span > 1 and cell.text):
                line = '<w:tcBorders><w:bottom w:val="single" w:sz="4" w:space="0" w:color="auto"/></w:tcBorders>'
            side = "centre" if cell.span > 1 else self.table.aligns[group[covered[0]]]
            told = self._cell_properties("TableHead", side)
            words = paragraph(self.running.block(cell.text, self._look()), told)
            cells.append(
                f'<w:tc><w:tcPr><w:tcW w:w="{width}" w:type="dxa"/>{spans}{line}<w:vAlign w:val="bottom"/></w:tcPr>{words}</w:tc>'
            )
        return f"<w:tr><w:trPr><w:cantSplit/><w:tblHeader/></w:trPr>{''.join(cells)}</w:tr>"

    def _row(self, number: int, group: tuple[int, ...], widths: list[int]) -> str:
        table, row, kind = self.table, self.table.rows[number], self.table.kind(number)
        if kind == "group":
            words = paragraph(self.running.block(row[0], self._look()), self._cell_properties("TableGroup", "left"))
            about = f'<w:tcW w:w="{sum(widths)}" w:type="dxa"/><w:gridSpan w:val="{len(group)}"/>'
            return f"<w:tr><w:trPr><w:cantSplit/></w:trPr><w:tc><w:tcPr>{about}</w:tcPr>{words}</w:tc></w:tr>"
        indent = "group" in table.kinds[:number] and kind != "foot"
        holds_on = table.kind(number + 1) == "continued" or number == 0
        border = ""
        if kind == "foot" and table.kind(number - 1) != "foot":
            border = '<w:tcBorders><w:top w:val="single" w:sz="4" w:space="0" w:color="auto"/></w:tcBorders>'
        cells = []
        for at, place in enumerate(group):
            told = self._cell_properties("TableText", table.aligns[place], -1 if kind == "foot" else place, widths[at])
            if holds_on:
                told.add("keepNext")
            lead = self.running.text(_INDENT) if indent and not at else ""
            words = paragraph(lead + self.running.block(row[place], self._look()), told)
            cells.append(f'<w:tc><w:tcPr><w:tcW w:w="{widths[at]}" w:type="dxa"/>{border}</w:tcPr>{words}</w:tc>')
        return f"<w:tr><w:trPr><w:cantSplit/></w:trPr>{''.join(cells)}</w:tr>"

    def _look(self) -> Look:
        """Letters smaller than usual, where the table is wide."""
        return Look(points=self.fit.size) if self.fit.size < self.usual else PLAIN

    def _cell_properties(self, style: str, side: str, column: int = -1, width: int = 0) -> Properties:
        """How a cell's words stand; numbers that end unlike each other have their decimal signs in line."""
        told = Properties(pStyle=f'w:val="{self.running.ids[style]}"')
        behind = self._behind[column] if column >= 0 and side == "right" else None
        if behind is not None:
            told.add("tabs", f'<w:tab w:val="decimal" w:pos="{max(width - 170 - behind, 200)}"/>')
        elif side in _SIDES and side != "left":
            told.add("jc", f'w:val="{_SIDES[side]}"')
        return told

    def _behind_sign(self, column: int) -> int | None:
        """Twips that the longest number of a column needs behind its decimal sign; None where all end alike, or not all are
        numbers: those have their right ends in line."""
        if self.table.aligns[column] != "right":
            return None
        ends: set[int] = set()
        for number, row in enumerate(self.table.rows):
            if self.table.kind(number) or not row[column]:
                continue
            shown = words_of(inline for inline in row[column] if not isinstance(inline, n.Superscript))
            marks = len(words_of(row[column])) - len(shown)
            if not _NUMBER.fullmatch(shown):
                return None
            ends.add(marks + (len(shown) - shown.index(self.decimal) if self.decimal in shown else 0))
        return round(max(ends) * _EM * self.fit.size * 20) if len(ends) > 1 else None


def is_wide(table: n.TextTable, room: float, narrowest: float) -> bool:
    """Whether a table does not stand in `room` centimetres without letters smaller than `narrowest`, or in several parts."""
    fitted = fit(table, room)
    return fitted.size < narrowest or len(fitted.groups) > 1
