"""Tables as data: typed columns that stay data until an output lays them out."""

from __future__ import annotations

from enum import StrEnum

from msgspec import Struct
from msgspec.structs import replace


class Kind(StrEnum):
    """What the cells of a column are; numbers are set right, the rest left."""

    NUMBER = "number"
    TEXT = "text"
    DATE = "date"
    TRUTH = "truth"


class Told(Struct, frozen=True):
    """Words of the author's own, given to a table or a figure: Markdown with marks."""

    text: str = ""
    answers: tuple[dict[str, object], ...] = ()
    """What the value marks in `text` came to, in order."""
    word: str = ""
    """Instead of a text: the name of a word that the page's language has, such as `estimate`."""


class Value(Struct, frozen=True):
    """A cell with looks of its own."""

    content: str | int | float | bool | Told | None
    low: float | None = None
    """The ends of an interval around a number."""
    high: float | None = None
    decimals: int | None = None
    """Places of this number alone; None to go with its column."""
    marks: str = ""
    """Letters or stars set high after it."""
    beside: Value | None = None
    """A second value in brackets after it, such as a standard deviation."""
    brackets: bool = False
    """Whether it stands in brackets, as standard errors do."""


Cell = str | int | float | bool | Value | None
"""A value: text (dates in ISO form too), a number, a truth value, or None where it is missing."""


class Column(Struct, frozen=True):
    """One column of a table."""

    heads: tuple[str | Told, ...]
    """Its head, one entry a level from the top; every column of a table has as many."""
    kind: Kind
    cells: tuple[Cell, ...]
    is_index: bool = False
    """Whether it names the rows instead of telling something about them."""
    align: str = ""
    """`left`, `right` or `centre`; empty to follow the kind."""
    decimals: int | None = None
    """Places after the decimal mark; None to find what the numbers need."""
    form: str = ""
    """How values are written, as after `as` in a value mark; empty for plainly."""
    marks: str = ""
    """Letters set high after the head."""


class Group(Struct, frozen=True):
    """Words above the rows that they hold for."""

    row: int
    """The row they stand above, counted from 0."""
    words: str


class Note(Struct, frozen=True):
    """A note under a table."""

    words: Told
    mark: str = ""
    """The letter that calls it; empty for a note on the whole table."""


class TableData(Struct, frozen=True):
    """A rectangular table; all columns hold the same number of cells."""

    columns: tuple[Column, ...]
    left_out: int = 0
    """How many further rows there were that are not held here."""
    groups: tuple[Group, ...] = ()
    continued: tuple[int, ...] = ()
    """Rows that go on with the row above, such as its standard errors."""
    foot: int = 0
    """How many of the last rows are set apart as sums."""
    notes: tuple[Note, ...] = ()
    caption: Told | None = None
    label: str = ""
    remark: str = ""
    """What is said of it where something of it is not shown."""
    cell: str = ""
    """Where in an office's workbook its first row goes; empty for nowhere."""

    @property
    def rows(self) -> int:
        """How many rows are held."""
        return len(self.columns[0].cells) if self.columns else 0

    def first(self, count: int) -> TableData:
        """The first `count` rows, the others counted; the whole where sums stand at its foot."""
        if self.rows <= count or self.foot:
            return self
        while count in self.continued:  # a row is not parted from the one that goes on with it
            count += 1
        return replace(
            self,
            columns=tuple(replace(column, cells=column.cells[:count]) for column in self.columns),
            groups=tuple(group for group in self.groups if group.row < count),
            continued=tuple(row for row in self.continued if row < count),
            left_out=self.left_out + self.rows - count,
        )
