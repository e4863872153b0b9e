"""Looks of cells, each kept once."""

from __future__ import annotations

from msgspec import Struct

from wornpage.output.ooxml.xml import HEAD, escaped

MAIN = "http://schemas.openxmlformats.org/spreadsheetml/2006/main"
_BUILT_IN = {"": 0, "0": 1, "0.00": 2, "#,##0": 3, "#,##0.00": 4, "0%": 9, "0.00%": 10, "0.00E+00": 11}
_FIRST_OWN = 164


class Look(Struct, frozen=True):
    """How a cell looks."""

    format: str = ""
    bold: bool = False
    italic: bool = False
    size: float = 0
    """Points; 0 for the usual."""
    align: str = ""
    wraps: bool = False
    at_top: bool = False
    above: bool = False
    """A line above it."""
    below: bool = False
    is_link: bool = False
    is_text: bool = False
    """Text that begins as a formula does, and stays text when somebody goes into the cell."""


class Styles:
    """The part of a workbook that has all looks."""

    def __init__(self, font: str, size: float) -> None:
        self.font, self.size = font, size
        self._fonts: dict[str, int] = {}
        self._borders: dict[str, int] = {"<border><left/><right/><top/><bottom/><diagonal/></border>": 0}
        self._formats: dict[str, int] = {}
        self._looks: dict[Look, int] = {}
        self._made: list[str] = []
        self.number(Look())

    def number(self, look: Look) -> int:
        """The number that cells name a look by."""
        if look not in self._looks:
            self._looks[look] = len(self._made)
            self._made.append(self._xf(look))
        return self._looks[look]

    def _xf(self, look: Look) -> str:
        parts = [f'horizontal="{look.align}"'] if look.align else []
        parts += ['vertical="top"'] if look.wraps or look.at_top else []
        parts += ['wrapText="1"'] if look.wraps else []
        align = f"<alignment {' '.join(parts)}/>" if parts else ""
        quote = ' quotePrefix="1"' if look.is_text else ""
        format_, font, border = self._format(look.format), self._font(look), self._border(look)
        applied = "".join(
            f' apply{name}="1"'
            for name, is_set in (("NumberFormat", format_), ("Font", font), ("Border", border), ("Alignment", align))
            if is_set
        )
        head = f'<xf numFmtId="{format_}" fontId="{font}" fillId="0" borderId="{border}" xfId="0"{quote}{applied}'
        return f"{head}>{align}</xf>" if align else f"{head}/>"

    def _format(self, format_: str) -> int:
        if format_ in _BUILT_IN:
            return _BUILT_IN[format_]
        return self._formats.setdefault(format_, _FIRST_OWN + len(self._formats))

    def _font(self, look: Look) -> int:
        colour = '<color rgb="FF1C5A63"/>' if look.is_link else '<color rgb="FF1D2024"/>'
        made = (
            f"<font>{'<b/>' if look.bold else ''}{'<i/>' if look.italic else ''}{'<u/>' if look.is_link else ''}"
            f'<sz val="{look.size or self.size:g}"/>{colour}<name val="{escaped(self.font)}"/></font>'
        )
        return self._fonts.setdefault(made, len(self._fonts))

    def _border(self, look: Look) -> int:
        line = ' style="thin"><color rgb="FF5B5F66"/></'
        top = f"<top{line}top>" if look.above else "<top/>"
        bottom = f"<bottom{line}bottom>" if look.below else "<bottom/>"
        made = f"<border><left/><right/>{top}{bottom}<diagonal/></border>"
        return self._borders.setdefault(made, len(self._borders))

    def xml(self) -> str:
        """The part."""
        formats = "".join(
            f'<numFmt numFmtId="{at}" formatCode="{escaped(text)}"/>' for text, at in self._formats.items()
        )
        formats = f'<numFmts count="{len(self._formats)}">{formats}</numFmts>' if formats else ""
        return (
            f'{HEAD}<styleSheet xmlns="{MAIN}">{formats}<fonts count="{len(self._fonts)}">{"".join(self._fonts)}</fonts>'
            '<fills count="2"><fill><patternFill patternType="none"/></fill><fill><patternFill patternType="gray125"/></fill></fills>'
            f'<borders count="{len(self._borders)}">{"".join(self._borders)}</borders>'
            '<cellStyleXfs count="1"><xf numFmtId="0" fontId="0" fillId="0" borderId="0"/></cellStyleXfs>'
            f'<cellXfs count="{len(self._made)}">{"".join(self._made)}</cellXfs>'
            '<cellStyles count="1"><cellStyle name="Normal" xfId="0" builtinId="0"/></cellStyles></styleSheet>'
        )
