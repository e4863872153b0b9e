"""A table of the page on a sheet of its own: data as data, and all that stands around it in words."""

from __future__ import annotations

import re
from collections.abc import Iterator

from msgspec import Struct
from msgspec.structs import replace

from wornpage.compose.tables import decimals_of
from wornpage.output.xlsx.grid import WRAPS_FROM, Grid
from wornpage.output.xlsx.styles import Look
from wornpage.output.xlsx.values import GENERAL, Held, fixed, held, of_form, of_moments, with_marks
from wornpage.tree import nodes as n
from wornpage.tree.language import Language
from wornpage.tree.table import Column, Kind, TableData, Told, Value
from wornpage.tree.walk import walk, words_of

_ALIGN = {"left": "left", "right": "right", "centre": "center"}
_SAMPLE = 2_000
"""Rows that the width of a column, and the places of its numbers, are taken from."""


class Heads(Struct, frozen=True):
    """The rows of a sheet that the heads of its table have come to stand in; none where the last is above the first."""

    first: int
    last: int


def put_table(grid: Grid, node: n.TableBlock, title: str, language: Language) -> Heads:
    """Write a table with its caption above and its notes below."""
    grid.add([(1, Held(title), Look(bold=True, size=12))])
    grid.skip()
    first = grid.row + 1
    _heads(grid, node.table)
    heads = Heads(first, grid.row)
    grid.frozen = (heads.last, node.table.index_columns)
    if node.data is not None and node.data.columns:
        _data(grid, node.data, node.table)
        left_out = node.data.left_out
    else:
        _words(grid, node.table, language)
        left_out = 0
    _below(grid, node.table, language.rows_cut.format(count=language.count(left_out)) if left_out else "")
    return heads


def _heads(grid: Grid, table: n.TextTable) -> None:
    rows = [row for row in table.heads if any(cell.text for cell in row)]
    for level, row in enumerate(rows):
        column, cells, spans = 1, [], []
        is_last = level == len(rows) - 1
        for cell in row:
            words = _with_marks(cell.text)
            side = _ALIGN.get(table.aligns[column - 1], "") if cell.span == 1 else "center"
            look = Look(bold=True, below=is_last or cell.span > 1, align=side)
            cells += [(column + at, Held(words if at == 0 and words else None), look) for at in range(cell.span)]
            spans.append((column, column + cell.span - 1))
            if cell.span == 1:
                grid.wide(column, len(words))
            column += cell.span
        number = grid.add(cells)
        for begins, ends in spans:
            grid.merge(number, begins, ends)


def _with_marks(words: n.Inlines) -> str:
    """Words with the letters that are set high behind them."""
    marks = ", ".join(node.text for node in walk(words) if isinstance(node, n.Superscript))
    return f"{words_of(words)} ({marks})" if marks else words_of(words)


# --- data -----------------------------------------------------------------------------------------


def _data(grid: Grid, data: TableData, laid: n.TextTable) -> None:
    """The rows of a table that came as data."""
    columns = [list(_cells(column, at, laid)) for at, column in enumerate(data.columns)]
    looks = [Look(align=_ALIGN.get(laid.aligns[at], "") if one.align else "") for at, one in enumerate(data.columns)]
    for at, cells in enumerate(columns):
        widest = max((_letters(cell) for cell in cells[:_SAMPLE]), default=0)
        grid.wide(at + 1, widest)
        if widest > WRAPS_FROM:
            looks[at] = replace(looks[at], wraps=True)
    groups = {group.row: group.words for group in data.groups}
    first_foot = data.rows - data.foot
    first = min([first_foot, *groups]) if not any(look.wraps for look in looks) else 0
    grid.add_alike([_tails(grid, cells[:first], look) for cells, look in zip(columns, looks, strict=True)])
    for row in range(first, data.rows):
        if row in groups:
            number = grid.add([(1, Held(groups[row]), Look(bold=True))])
            grid.merge(number, 1, len(columns))
        if row == first_foot:
            looks = [replace(look, bold=True, above=True) for look in looks]
        elif row == first_foot + 1:
            looks = [replace(look, above=False) for look in looks]
        grid.add([(at, cells[row], look) for at, (cells, look) in enumerate(zip(columns, looks, strict=True), 1)])


def _tails(grid: Grid, cells: list[Held], look: Look) -> list[str]:
    """What is written of the cells of a column behind their places. The same words and days come again and again."""
    known: dict[tuple[object, type, str], str] = {}
    found = []
    for cell in cells:
        if isinstance(cell.value, float):
            found.append(grid.tail(cell.value, cell.format, look))
            continue
        key = (cell.value, type(cell.value), cell.format)
        tail = known.get(key)
        if tail is None:
            tail = known[key] = grid.tail(cell.value, cell.format, look)
        found.append(tail)
    return found


def cells_of(data: TableData) -> list[list[Held]]:
    """The rows of a table without its heads, for a place in a workbook."""
    empty = n.TextTable((), tuple("" for _ in data.columns), ())
    return [list(row) for row in zip(*(_cells(one, at, empty) for at, one in enumerate(data.columns)), strict=True)]


def _cells(column: Column, place: int, laid: n.TextTable) -> Iterator[Held]:
    """The cells of a column; what is no single value is told in the words of the page."""
    kind, format_ = column.kind.value, GENERAL
    if column.kind is Kind.NUMBER:
        format_ = _format_of(column)
    elif column.kind is Kind.DATE:
        format_ = of_moments(cell for cell in column.cells if isinstance(cell, str))
    rows = laid.plain_rows
    for at, cell in enumerate(column.cells):
        if isinstance(cell, Value):
            words = rows[at][place] if at < len(rows) and place < len(rows[at]) else ()
            yield _with_looks(cell, column, format_, words)
        else:
            yield held(cell, kind, format_)


def _format_of(column: Column) -> str:
    """The format of a column of numbers, by those that readers of the page see."""
    if column.form:
        return of_form(column.form, column.decimals)
    if any(isinstance(one, str) for one in column.cells):
        return fixed(column.decimals)  # decimal fractions, which have digits of their own
    return fixed(decimals_of(replace(column, cells=column.cells[:_SAMPLE]), column.decimals))


def _with_looks(cell: Value, column: Column, format_: str, words: n.Inlines) -> Held:
    is_single = cell.low is None and cell.high is None and cell.beside is None
    if is_single and isinstance(cell.content, int | float) and not isinstance(cell.content, bool):
        own = of_form(column.form, cell.decimals) if cell.decimals is not None else format_
        return held(cell.content, "number", with_marks(own, cell.marks, cell.brackets))
    if words:
        return Held(words_of(words))
    content = cell.content.text if isinstance(cell.content, Told) else cell.content
    return held(content, column.kind.value, format_)


def _letters(cell: Held) -> int:
    """How much room a cell takes."""
    value = cell.value
    if isinstance(value, str):
        return max(map(len, value.split("\n")), default=0)
    if value is None or isinstance(value, bool):
        return 6
    if "yy" in cell.format:
        return len(cell.format)
    places = len(cell.format.partition(".")[2].rstrip("%")) if cell.format else 4
    whole = len(str(int(abs(value)))) if abs(value) < 1e15 else 6
    return whole + whole // 3 + places + 3


# --- words ----------------------------------------------------------------------------------------


def _words(grid: Grid, table: n.TextTable, language: Language) -> None:
    """The rows of a table that was written by hand: what is plainly a number is one."""
    number = _number_in(language)
    for row in table.rows:
        cells = []
        for column, inlines in enumerate(row, 1):
            text = words_of(inlines)
            grid.wide(column, len(text))
            look = Look(align=_ALIGN.get(table.aligns[column - 1], ""), wraps=len(text) > WRAPS_FROM)
            cells.append((column, _read(text, number, language), look))
        grid.add(cells)


def _number_in(language: Language) -> re.Pattern[str]:
    group, decimal = re.escape(language.group), re.escape(language.decimal)
    return re.compile(rf"([-−]?)(\d{{1,3}}(?:{group}\d{{3}})+|\d+)(?:{decimal}(\d+))?")


def _read(text: str, number: re.Pattern[str], language: Language) -> Held:
    found = number.fullmatch(text)
    if found is None or (len(found[2]) > 1 and found[2].startswith("0")):
        return Held(text or None)
    grouped = language.group in found[2]
    whole = found[2].replace(language.group, "")
    plain = ("-" if found[1] else "") + whole + (f".{found[3]}" if found[3] else "")
    return held(plain, "number", fixed(len(found[3] or ""), grouped))


def _below(grid: Grid, table: n.TextTable, cut: str) -> None:
    said = [f"({mark}) {words_of(words)}" if mark else words_of(words) for mark, words in table.notes]
    said += [f"… {cut}"] if cut else []
    if said:
        grid.skip()
    for words in said:
        grid.add([(1, Held(words), Look(italic=True))])
