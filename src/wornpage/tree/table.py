"""Tables as data: typed columns that stay data until an output lays them out."""

from __future__ import annotations

from enum import StrEnum

from msgspec import Struct


class Kind(StrEnum):
    """What the cells of a column are; numbers are set right, the rest left."""

    NUMBER = "number"
    TEXT = "text"
    DATE = "date"
    TRUTH = "truth"


Cell = str | int | float | bool | None
"""A value: text (dates in ISO form too), a number, a truth value, or None where it is missing."""


class Column(Struct, frozen=True):
    """One column of a table."""

    heads: tuple[str, ...]
    """Its head, one entry a level from the top; every column of a table has as many."""
    kind: Kind
    cells: tuple[Cell, ...]
    is_index: bool = False
    """Whether it names the rows instead of telling something about them."""
    align: str = ""
    """`left`, `right` or `centre`; empty to follow the kind."""
    decimals: int | None = None
    """Places after the decimal mark; None to find what the numbers need."""


class TableData(Struct, frozen=True):
    """A rectangular table; all columns hold the same number of cells."""

    columns: tuple[Column, ...]
    left_out: int = 0
    """How many further rows there were that are not held here."""

    @property
    def rows(self) -> int:
        """How many rows are held."""
        return len(self.columns[0].cells) if self.columns else 0
