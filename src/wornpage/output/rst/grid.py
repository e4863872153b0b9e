"""Tables drawn with lines, the one form that has heads over heads."""

from __future__ import annotations

from collections.abc import Callable

from msgspec import Struct

from wornpage.output.rst.letters import width
from wornpage.tree import nodes as n

Words = Callable[[n.Inlines], list[str]]
"""The lines of a cell."""


class _Cell(Struct, frozen=True):
    lines: list[str]
    span: int = 1
    side: str = ""


def grid(table: n.TextTable, words: Words) -> list[str]:
    """The lines of a table that has rows."""
    heads = [[_Cell(words(cell.text), cell.span) for cell in row] for row in table.heads]
    if not any(any(cell.lines) for row in heads for cell in row):
        heads = []
    count = len(table.aligns)
    rows = [_row(table, at, count, words) for at in range(len(table.rows))]
    widths = _widths([*heads, *rows], count)
    drawn: list[str] = []
    before: list[_Cell] = []
    for at, row in enumerate([*heads, *rows]):
        drawn.append(_rule(before, row, widths, "=" if heads and at == len(heads) else "-"))
        drawn += _drawn(row, widths)
        before = row
    return [*drawn, _rule(before, [], widths, "-")]


def _row(table: n.TextTable, at: int, count: int, words: Words) -> list[_Cell]:
    row = table.rows[at]
    if table.kind(at) == "group":
        return [_Cell(words(row[0]), count)]
    return [_Cell(words(cell), 1, table.aligns[place]) for place, cell in enumerate(row)]


def _widths(rows: list[list[_Cell]], count: int) -> list[int]:
    """Columns of letters for each column; what spans several widens the last of them."""
    widths = [3] * count
    for row in rows:
        place = 0
        for cell in row:
            need = max(map(width, cell.lines), default=0)
            has = sum(widths[place : place + cell.span]) + 3 * (cell.span - 1)
            last = place + cell.span - 1
            if need > has:
                widths[last] += need - has
            place += cell.span
    return widths


def _borders(row: list[_Cell], widths: list[int]) -> set[int]:
    """Where the lines between cells stand."""
    found, at, place = {0}, 0, 0
    for cell in row:
        at += sum(widths[place : place + cell.span]) + 3 * cell.span
        place += cell.span
        found.add(at)
    return found if row else set()


def _rule(above: list[_Cell], below: list[_Cell], widths: list[int], sign: str) -> str:
    crossings = _borders(above, widths) | _borders(below, widths)
    return "".join("+" if at in crossings else sign for at in range(max(crossings) + 1))


def _drawn(row: list[_Cell], widths: list[int]) -> list[str]:
    made = []
    for line in range(max([1, *(len(cell.lines) for cell in row)])):
        parts, place = "|", 0
        for cell in row:
            room = sum(widths[place : place + cell.span]) + 3 * (cell.span - 1)
            place += cell.span
            said = cell.lines[line] if line < len(cell.lines) else ""
            gap = " " * (room - width(said))
            alone = len(cell.lines) == 1
            parts += f" {gap}{said} |" if cell.side == "right" and alone else f" {said}{gap} |"
        made.append(parts)
    return made
