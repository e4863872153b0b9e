"""The sheets of a document: their size, margins, columns, and what every section says of them."""

from __future__ import annotations

from msgspec import Struct

from wornpage.output import paper
from wornpage.output.docx.looks import Looks
from wornpage.output.docx.xml import twips

_TALLEST = 0.72
"""Share of the height between the margins that a figure may take, so that its caption stands below it."""


class Sheet(Struct, frozen=True):
    """Lengths in centimetres."""

    width: float
    height: float
    top: float
    bottom: float
    sides: tuple[float, float]
    columns: int = 1
    gutter: float = 0.7
    numbered_lines: bool = False
    rtl: bool = False
    before: str = ""
    """What stands before the size in each section: heads and feet."""
    first: str = ""
    """What the first section says besides."""

    @property
    def column(self) -> float:
        """Width of a column."""
        return (self.room(turned=False) - self.gutter * (self.columns - 1)) / self.columns

    def room(self, turned: bool) -> float:
        """From margin to margin, on a sheet that lies as it does or is turned."""
        return self.height - self.top - self.bottom if turned else self.width - sum(self.sides)

    @property
    def tallest(self) -> float:
        """How high a figure may be."""
        return (self.height - self.top - self.bottom) * _TALLEST

    def section(self, columns: int, turned: bool, kind: str, is_first: bool) -> str:
        """What stands in `w:sectPr`."""
        width, height = (self.height, self.width) if turned else (self.width, self.height)
        left, right = (self.top, self.bottom) if turned else self.sides
        top, bottom = (self.sides[1], self.sides[0]) if turned else (self.top, self.bottom)
        aside = ' w:orient="landscape"' if width > height else ""
        margins = f'w:top="{twips(top)}" w:right="{twips(right)}" w:bottom="{twips(bottom)}" w:left="{twips(left)}"'
        lines = '<w:lnNumType w:countBy="1" w:restart="continuous"/>' if self.numbered_lines else ""
        return (
            f'{self.before if is_first else ""}<w:type w:val="{kind}"/>'
            f'<w:pgSz w:w="{twips(width)}" w:h="{twips(height)}"{aside}/>'
            f'<w:pgMar {margins} w:header="708" w:footer="708" w:gutter="0"/>{lines}'
            f'<w:cols w:num="{columns}" w:space="{twips(self.gutter)}"/>{self.first if is_first else ""}{"<w:bidi/>" if self.rtl else ""}'
        )


def sheet_of(name: str, looks: Looks, rtl: bool) -> Sheet:
    """Sheets of a size (`output.paper`), with the margins of A4 in proportion."""
    size, own = paper.sheet_of(name), looks.sheets
    across, up = size.width / paper.A4[0], size.height / paper.A4[1]
    sides = own.sides * across
    return Sheet(
        size.width,
        size.height,
        own.top * up,
        own.bottom * up,
        (sides, sides),
        own.columns,
        own.gutter,
        looks.lines.numbered,
        rtl,
    )
