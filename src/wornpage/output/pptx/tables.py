"""Tables as presentations have them."""

from __future__ import annotations

from wornpage.output.deck.measuring import Measure
from wornpage.output.pptx.drawingml import Box, Face, Lines, emu, fill
from wornpage.output.pptx.text import Text
from wornpage.tree import nodes as n

_ALIGN = {"left": "l", "right": "r", "centre": "ctr"}
_MARGINS = (10.0, 4.0)
_SLACK = 1.1
"""For letters wider than those that were measured."""


def table_xml(table: n.TextTable, text: Text, measure: Measure, room: float, size: float) -> tuple[str, float, float]:
    """`a:tbl` with its width and height in points: as wide as it needs to be, and no wider than `room`."""
    wished = [max(measure.column(table, at), 1.5) * size * _SLACK + 2 * _MARGINS[0] for at in range(len(table.aligns))]
    total = sum(wished)
    widths = [one * min(1.0, room / total) for one in wished] if total else []
    height = size * 1.3 + 2 * _MARGINS[1]
    writer = _Rows(table, text, size, height)
    rows = [writer.head(at, row) for at, row in enumerate(table.heads)]
    rows += [writer.row(at) for at in range(len(table.rows))]
    columns = "".join(f'<a:gridCol w="{emu(width)}"/>' for width in widths)
    made = f'<a:tbl><a:tblPr firstRow="1"/><a:tblGrid>{columns}</a:tblGrid>{"".join(rows)}</a:tbl>'
    return made, sum(widths), height * len(rows)


def table_frame(number: int, name: str, alt: str, box: Box, table: str) -> str:
    """A table at its place."""
    uri = "http://schemas.openxmlformats.org/drawingml/2006/table"
    return (
        f'<p:graphicFrame><p:nvGraphicFramePr><p:cNvPr id="{number}" name="{name}" descr="{alt}"/>'
        '<p:cNvGraphicFramePr><a:graphicFrameLocks noGrp="1"/></p:cNvGraphicFramePr><p:nvPr/></p:nvGraphicFramePr>'
        f'{box.xml("p:xfrm")}<a:graphic><a:graphicData uri="{uri}">{table}</a:graphicData></a:graphic></p:graphicFrame>'
    )


class _Rows:
    """Writes rows."""

    def __init__(self, table: n.TextTable, text: Text, size: float, height: float) -> None:
        self.table, self.text, self.size, self.height = table, text, size, height
        self.columns = len(table.aligns)

    def head(self, level: int, row: tuple[n.HeadCell, ...]) -> str:
        """A row of heads."""
        cells, column = [], 0
        last = level == len(self.table.heads) - 1
        for cell in row:
            align = "ctr" if cell.span > 1 else _ALIGN.get(self.table.aligns[column], "l")
            below = 1.5 if last else 0.75 if cell.span > 1 and cell.text else 0.0
            cells.append(self.cell(cell.text, align, 1.5 if level == 0 else 0.0, below, cell.span, bold=True))
            column += cell.span
        return self.whole(cells)

    def row(self, at: int) -> str:
        table, kind = self.table, self.table.kind(at)
        above = 1.0 if kind == "foot" and table.kind(at - 1) != "foot" else 0.0
        below = 1.5 if at == len(table.rows) - 1 else 0.5 if kind != "continued" else 0.0
        if kind == "group":
            return self.whole([self.cell(table.rows[at][0], "l", 0.0, below, self.columns, bold=True)])
        if not table.heads and at == 0:
            above = 1.5
        return self.whole(
            [
                self.cell(words, _ALIGN.get(align, "l"), above, below)
                for words, align in zip(table.rows[at], table.aligns, strict=True)
            ]
        )

    def whole(self, cells: list[str]) -> str:
        return f'<a:tr h="{emu(self.height)}">{"".join(cells)}</a:tr>'

    def cell(self, words: n.Inlines, align: str, above: float, below: float, span: int = 1, bold: bool = False) -> str:
        """A cell, and those that it stretches over."""
        made = self.text.paragraph(
            words, Lines(align=align, before=0), Face(size=self.size, bold=bold, colour=self.text.ink)
        )
        inset = (
            f'marL="{emu(_MARGINS[0])}" marR="{emu(_MARGINS[0])}" marT="{emu(_MARGINS[1])}" marB="{emu(_MARGINS[1])}"'
        )
        ink = self.text.ink or "tx1"
        rules = _rule("L", 0, ink) + _rule("R", 0, ink) + _rule("T", above, ink) + _rule("B", below, ink)
        about = f'<a:tcPr {inset} anchor="b">{rules}<a:noFill/></a:tcPr>'
        inner = made.xml if not made.has_formula else made.plain
        stretched = f' gridSpan="{span}"' if span > 1 else ""
        empty = '<a:tc hMerge="1"><a:txBody><a:bodyPr/><a:lstStyle/><a:p><a:endParaRPr lang="en"/></a:p></a:txBody><a:tcPr/></a:tc>'
        return f"<a:tc{stretched}><a:txBody><a:bodyPr/><a:lstStyle/>{inner}</a:txBody>{about}</a:tc>" + empty * (
            span - 1
        )


def _rule(side: str, width: float, ink: str) -> str:
    if not width:
        return f'<a:ln{side} w="0"><a:noFill/></a:ln{side}>'
    colour = ink if width > 0.6 else "D8D4CA"
    return f'<a:ln{side} w="{emu(width)}">{fill(colour)}</a:ln{side}>'
