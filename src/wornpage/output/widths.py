"""Fitting tables to a sheet: a smaller letter first, then groups of columns one below the other."""

from __future__ import annotations

from itertools import chain

from msgspec import Struct

from wornpage.tree import formula as f
from wornpage.tree.nodes import Inlines, Math, Text, TextTable
from wornpage.tree.walk import rewrite, walk, words_of

SIZES = (9.0, 8.5, 8.0, 7.5, 7.0, 6.5, 6.0)
"""Sizes of letters in points, tried from the largest."""
_EM_A_LETTER = 0.52
_INDENT = 1.0
"""Ems that rows stand in below the words of their group."""
_PADDING = 1.1
"""Ems of room at the sides of a column."""
_POINT = 2.54 / 72
_WRAPS_FROM = 26
"""Letters beyond which a column of text may be broken into lines."""


class Fit(Struct, frozen=True):
    """How a table is set."""

    size: float
    """Points."""
    groups: tuple[tuple[int, ...], ...]
    """Columns of each part, index columns in all; one part if it fits whole."""
    wraps: frozenset[int]
    """Columns whose text is broken into lines."""
    needs: tuple[float, ...] = ()
    """Ems that each column needs."""


def fit(table: TextTable, width: float) -> Fit:
    """Fit `table` into `width` centimetres."""
    needs, wraps = _needs(table)
    for size in SIZES:
        if _width(range(len(needs)), needs, size) <= width:
            return Fit(size, (tuple(range(len(needs))),), wraps, tuple(needs))
    return Fit(SIZES[-1], _groups(table, needs, width), wraps, tuple(needs))


def _needs(table: TextTable) -> tuple[list[float], frozenset[int]]:
    """Ems each column needs, and which columns may be broken into lines."""
    columns = list(zip(*table.plain_rows, strict=True)) if table.plain_rows else [()] * len(table.aligns)
    heads = table.heads[-1] if table.heads else ()
    needs, wraps = [], set()
    for place, cells in enumerate(columns):
        texts = [_drawn(cell) for cell in cells]
        head = _drawn(heads[place].text) if place < len(heads) else ""
        longest = max(map(len, texts), default=0)
        words = max(map(len, chain.from_iterable(text.split() for text in [*texts, head])), default=1)
        if longest > _WRAPS_FROM and table.aligns[place] != "right":
            wraps.add(place)
            longest = max(_WRAPS_FROM, words)
        indent = _INDENT if place == 0 and "group" in table.kinds else 0
        needs.append(max(longest, words, min(len(head), 14)) * _EM_A_LETTER + _PADDING + indent)
    return needs, frozenset(wraps)


def _drawn(inlines: Inlines) -> str:
    """What takes up room: the words, and for a formula about as many letters as it is long."""
    formulas = [node for node in walk(inlines) if isinstance(node, Math)]
    plain = rewrite(inlines, lambda node: Text(node.span, "") if isinstance(node, Math) else None)
    return words_of(plain) + "".join("x" * f.length(node.formula) for node in formulas)


def _width(places: range | list[int], needs: list[float], size: float) -> float:
    return sum(needs[place] for place in places) * size * _POINT


def _groups(table: TextTable, needs: list[float], width: float) -> tuple[tuple[int, ...], ...]:
    """Columns in parts that each fit; the index, or the first column, begins every part."""
    lead = list(range(table.index_columns)) or [0]
    groups: list[list[int]] = []
    current = list(lead)
    for place in range(len(lead), len(needs)):
        if len(current) > len(lead) and _width([*current, place], needs, SIZES[-1]) > width:
            groups.append(current)
            current = list(lead)
        current.append(place)
    groups.append(current)
    return tuple(map(tuple, groups))
