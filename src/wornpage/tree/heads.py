"""What the columns of a table are called, where heads stand over heads."""

from __future__ import annotations

from wornpage.tree.nodes import TextTable
from wornpage.tree.walk import words_of


def column_heads(table: TextTable) -> list[tuple[str, ...]]:
    """By column: its heads from the top, those that are empty left out; one that stretches over several is said for each."""
    made: list[list[str]] = [[] for _ in table.aligns]
    for row in table.heads:
        column = 0
        for cell in row:
            said = " ".join(words_of(cell.text).split())
            for heads in made[column : column + cell.span] if said else ():
                heads.append(said)
            column += cell.span
    return [tuple(heads) for heads in made]
