"""One sheet: rows of cells, what is merged, how wide the columns are, how it is printed."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from functools import cache

from msgspec.structs import replace

from wornpage.output.ooxml.xml import HEAD, R, escaped
from wornpage.output.xlsx.styles import MAIN, Look, Styles
from wornpage.output.xlsx.values import LONGEST, Held
from wornpage.tree.sheetcells import letters_of

_WIDEST = 60
WRAPS_FROM = _WIDEST - 2
"""Letters of a text beyond which it is broken into lines."""
_IN_A_LINE = 66
"""Letters of a text in the widest column, which are narrower than the digits that columns are measured by."""
_LINE = 15
"""Points of a line."""
_NARROWEST = 9
_AS_FORMULAS = ("=", "+", "-", "@", "\t", "\r")
_WIDE = 95
"""Letters across beyond which a sheet lies on its side."""


class Grid:
    """Writes one sheet, row by row."""

    def __init__(self, styles: Styles) -> None:
        self.styles = styles
        self.rows: list[str] = []
        self.row = 0
        self.widths: dict[int, int] = {}
        self.merged: list[str] = []
        self.links: list[tuple[str, str, str]] = []
        """Cell, place within the workbook, words."""
        self.frozen = (0, 0)
        """Rows and columns that stay."""
        self.drawing = ""
        self._known: dict[tuple[int, str, bool], tuple[Look, int]] = {}
        """By a look itself, a format, and whether it is for text: the look, so that it stays, and its number."""
        self._letters: dict[int, str] = {}

    def add(self, cells: Iterable[tuple[int, Held, Look]], height: float = 0) -> int:
        """A row of cells by their columns, counted from 1; its number."""
        self.row += 1
        cells = list(cells)
        if not height and any(look.wraps for _, _, look in cells):
            height = _LINE * max(_lines(held.value) for _, held, look in cells if look.wraps)
            cells = [(column, held, _with(look, at_top=True)) for column, held, look in cells]
        made = "".join([self._cell(column, held, look) for column, held, look in cells])
        tall = f' ht="{height:g}" customHeight="1"' if height else ""
        self.rows.append(f'<row r="{self.row}"{tall}>{made}</row>' if made or tall else "")
        return self.row

    def _cell(self, column: int, held: Held, look: Look) -> str:
        tail = self.tail(held.value, held.format, look)
        return f'<c r="{self._letters_of(column)}{self.row}{tail}' if tail else ""

    def tail(self, value: str | float | None, format: str, look: Look) -> str:  # noqa: A002
        """What is written of a cell behind its place, whatever that is; empty for one that is not there."""
        if isinstance(value, str) and value:
            value = value[:LONGEST]
            style = self._style(look, "", value.startswith(_AS_FORMULAS))
            space = ' xml:space="preserve"' if value != value.strip() or "\n" in value else ""
            return f'" s="{style}" t="inlineStr"><is><t{space}>{escaped(value)}</t></is></c>'
        style = self._style(look, format, False)
        if value is None or value == "":
            return f'" s="{style}"/>' if style else ""
        if isinstance(value, bool):
            return f'" s="{style}" t="b"><v>{int(value)}</v></c>'
        return f'" s="{style}"><v>{value!r}</v></c>'

    def add_alike(self, columns: Sequence[Sequence[str]]) -> None:
        """Rows whose cells have one look a column, from what is written of each behind its place."""
        begins = [f'<c r="{self._letters_of(column)}' for column in range(1, len(columns) + 1)]
        for tails in zip(*columns, strict=True):
            self.row += 1
            row = str(self.row)
            made = "".join([begin + row + tail for begin, tail in zip(begins, tails, strict=True) if tail])
            self.rows.append(f'<row r="{row}">{made}</row>' if made else "")

    def _letters_of(self, column: int) -> str:
        return self._letters.get(column) or self._letters.setdefault(column, letters_of(column))

    def _style(self, look: Look, format: str, is_text: bool) -> int:  # noqa: A002
        """The number of a look with a format, or for text that looks like a formula; the same ones are asked for a thousand times."""
        key = (id(look), format, is_text)
        known = self._known.get(key)
        if known is None:
            known = self._known[key] = (look, self.styles.number(_with(look, format, is_text)))
        return known[1]

    def skip(self, count: int = 1) -> None:
        """Leave rows empty."""
        self.row += count

    def wide(self, column: int, letters: int) -> None:
        """A column holds so many letters side by side."""
        self.widths[column] = max(self.widths.get(column, _NARROWEST), min(letters + 2, _WIDEST))

    def merge(self, row: int, first: int, last: int) -> None:
        """Several cells of a row are one."""
        if last > first:
            self.merged.append(f"{letters_of(first)}{row}:{letters_of(last)}{row}")

    def xml(self) -> str:
        """The part."""
        rows, columns = self.frozen
        corner = f"{letters_of(columns + 1)}{rows + 1}"
        split = (f' xSplit="{columns}"' if columns else "") + (f' ySplit="{rows}"' if rows else "")
        pane = "bottomRight" if rows and columns else "bottomLeft" if rows else "topRight"
        view = f'<pane{split} topLeftCell="{corner}" activePane="{pane}" state="frozen"/>' if split else ""
        cols = "".join(
            f'<col min="{at}" max="{at}" width="{width}" customWidth="1"/>' for at, width in sorted(self.widths.items())
        )
        merged = "".join(f'<mergeCell ref="{one}"/>' for one in self.merged)
        merged = f'<mergeCells count="{len(self.merged)}">{merged}</mergeCells>' if merged else ""
        links = "".join(
            f'<hyperlink ref="{cell}" location="{escaped(place)}" display="{escaped(words)}"/>'
            for cell, place, words in self.links
        )
        lies = "landscape" if sum(self.widths.values()) > _WIDE else "portrait"
        return (
            f'{HEAD}<worksheet xmlns="{MAIN}" xmlns:r="{R}"><sheetPr><pageSetUpPr fitToPage="1"/></sheetPr>'
            f'<sheetViews><sheetView workbookViewId="0" showGridLines="0">{view}</sheetView></sheetViews><sheetFormatPr defaultRowHeight="15"/>'
            f"{f'<cols>{cols}</cols>' if cols else ''}<sheetData>{''.join(self.rows)}</sheetData>{merged}"
            f"{f'<hyperlinks>{links}</hyperlinks>' if links else ''}"
            '<pageMargins left="0.6" right="0.6" top="0.7" bottom="0.7" header="0.3" footer="0.3"/>'
            f'<pageSetup paperSize="9" orientation="{lies}" fitToHeight="0"/><headerFooter><oddFooter>&amp;C&amp;P</oddFooter></headerFooter>'
            f"{self.drawing}</worksheet>"
        )


def _lines(value: object) -> int:
    """How many lines a text takes in a column as wide as it may be."""
    texts = value.split("\n") if isinstance(value, str) else [""]
    return sum(max(1, -(-len(text) // _IN_A_LINE)) for text in texts)


@cache
def _with(look: Look, format: str = "", is_text: bool = False, at_top: bool = False) -> Look:  # noqa: A002
    """A look with more: always the same object for the same."""
    return replace(look, format=format or look.format, is_text=is_text or look.is_text, at_top=at_top or look.at_top)
