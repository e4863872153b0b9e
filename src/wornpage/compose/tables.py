"""Tables from data: cells in words, one number of decimals a column, heads merged over what they span."""

from __future__ import annotations

import math
from itertools import groupby

from wornpage.compose.language import Language, write_number
from wornpage.compose.values import plain_number
from wornpage.tree.nodes import HeadCell, Inlines, Text, TextTable
from wornpage.tree.span import Span
from wornpage.tree.table import Cell, Column, Kind, TableData

DASH = "\u2013"
_MOST_DECIMALS = 6


def lay_out(table: TableData, decimals: int | None, language: Language, span: Span) -> TextTable:
    """`table` in words. `decimals` holds for columns that do not set their own and hold fractions."""
    columns = [_cells(column, decimals, language) for column in table.columns]
    rows = tuple(tuple(_inline(cell, span) for cell in row) for row in zip(*columns, strict=True))
    note = language.rows_cut.format(count=f"{table.left_out:,}") if table.left_out else ""
    aligns = tuple(column.align or ("right" if column.kind is Kind.NUMBER else "left") for column in table.columns)
    index = sum(column.is_index for column in table.columns)
    return TextTable(_heads(table, span), aligns, rows, index, note)


def _inline(text: str, span: Span) -> Inlines:
    return (Text(span, text),) if text else ()


def _heads(table: TableData, span: Span) -> tuple[tuple[HeadCell, ...], ...]:
    """Rows of heads; equal neighbours above the lowest level become one cell."""
    depth = max((len(column.heads) for column in table.columns), default=0)
    rows = []
    for level in range(depth):
        cells: list[HeadCell] = []
        paths = [
            column.heads[: level + 1] if not column.is_index else (str(i),) for i, column in enumerate(table.columns)
        ]
        for path, group in groupby(range(len(paths)), key=lambda i: paths[i]):
            members = list(group)
            text = table.columns[members[0]].heads[level]
            if level == depth - 1 or not path:
                cells += [HeadCell(_inline(table.columns[m].heads[level], span)) for m in members]
            else:
                cells.append(HeadCell(_inline(text, span), len(members)))
        rows.append(tuple(cells))
    return tuple(rows)


def _cells(column: Column, decimals: int | None, language: Language) -> list[str]:
    if column.kind is Kind.NUMBER:
        return _numbers(column, column.decimals if column.decimals is not None else decimals, language)
    return [_word(cell, language) for cell in column.cells]


def _word(cell: Cell, language: Language) -> str:
    if cell is None:
        return DASH
    if isinstance(cell, bool):
        return language.yes_no[0 if cell else 1]
    return str(cell)


def _numbers(column: Column, decimals: int | None, language: Language) -> list[str]:
    known = [float(cell) for cell in column.cells if isinstance(cell, int | float) and math.isfinite(cell)]
    whole = all(isinstance(cell, int) or cell is None for cell in column.cells)
    if whole or (known and all(value == int(value) and abs(value) < 1e15 for value in known)):
        decimals = 0  # a column of whole numbers is read best as such, whatever its type
    elif decimals is None:
        decimals = needed_decimals(known)
    return [_number(cell, decimals, language) for cell in column.cells]


def _number(cell: Cell, decimals: int | None, language: Language) -> str:
    if cell is None or isinstance(cell, str) or (isinstance(cell, float) and math.isnan(cell)):
        return DASH if cell is None or not isinstance(cell, str) else cell
    if isinstance(cell, float) and math.isinf(cell):
        return "∞" if cell > 0 else "\u2212∞"
    if isinstance(cell, int):
        return write_number(str(cell), language)
    if decimals is None:
        return plain_number(cell, None, language)
    return write_number(f"{cell:.{decimals}f}", language)


def needed_decimals(values: list[float]) -> int | None:
    """The fewest decimals, up to six, at which no value loses its first five digits; None if too far apart."""
    sizes = [abs(value) for value in values if value]
    if not sizes:
        return 0
    if max(sizes) >= 1e15 or max(sizes) < 1e-4:
        return None
    digits = max(0, min(_MOST_DECIMALS, 4 - math.floor(math.log10(max(sizes)))))
    for places in range(digits + 1):
        if all(math.isclose(round(value, places), value, rel_tol=1e-9, abs_tol=1e-12) for value in values):
            return places
    return digits
