"""What differs between two pressings."""

from __future__ import annotations

from msgspec import Struct

from wornpage.showing.parts import Number, Part, Showing, ShownPicture, Words


class NumberChange(Struct, frozen=True, tag="number"):
    """A value in words, or a number that code has written, that is another now."""

    before: str
    after: str
    was: Number | None
    """Before it was rounded; None for what is no number."""
    now: Number | None
    expression: str
    place: str
    around: str
    """The text that it stands in, as it is now."""
    at: int
    """Which letter of that text `after` begins at."""
    order: int
    """Which part of the page it belongs to."""

    @property
    def is_seen(self) -> bool:
        """Whether readers see it."""
        return self.before != self.after


class CellChange(Struct, frozen=True, tag="cell"):
    """A cell of a table."""

    table: str
    """Its label."""
    name: str
    """Such as `Table 2`, or its caption."""
    row: str
    column: str
    before: str
    after: str
    was: Number | None
    now: Number | None
    place: str
    order: int


class RowsChange(Struct, frozen=True, tag="rows"):
    """Rows or columns of a table that came or went."""

    table: str
    name: str
    what: str
    """`rows` or `columns`."""
    came: tuple[str, ...]
    went: tuple[str, ...]
    place: str
    order: int


class FigureChange(Struct, frozen=True, tag="figure"):
    """A figure that is drawn otherwise."""

    label: str
    name: str
    caption: str
    before: tuple[ShownPicture, ...]
    after: tuple[ShownPicture, ...]
    place: str
    order: int


class WordsChange(Struct, frozen=True, tag="words"):
    """Text that says something else."""

    kind: str
    pieces: tuple[tuple[str, str], ...]
    """`same`, `came` or `went`, and the words."""
    place: str
    order: int


class PartChange(Struct, frozen=True, tag="part"):
    """A part of the page that came or went."""

    came: bool
    part: Part
    order: int


Change = NumberChange | CellChange | RowsChange | FigureChange | WordsChange | PartChange


class DataChange(Struct, frozen=True):
    """A file of data, or one that the page inserts."""

    path: str
    what: tuple[str, ...]
    """In sentences."""


class OtherChange(Struct, frozen=True):
    """A version, a given value."""

    kind: str
    """`library`, `given`, `Python` or `Worn Page`."""
    name: str
    before: str
    after: str


class RanChunk(Struct, frozen=True):
    """A chunk that has run again since."""

    label: str
    place: str
    why: str


class Comparison(Struct, frozen=True):
    """All of it."""

    before: Showing
    after: Showing
    changes: tuple[Change, ...]
    """In the order of the page as it is now."""
    same: dict[str, int]
    """How many values, cells, tables, figures and texts are as they were."""
    data: tuple[DataChange, ...] = ()
    others: tuple[OtherChange, ...] = ()
    ran: tuple[RanChunk, ...] = ()

    @property
    def is_empty(self) -> bool:
        """Whether readers see the same."""
        return not any(not isinstance(one, NumberChange) or one.is_seen for one in self.changes)


def relative(was: Number | None, now: Number | None) -> float | None:
    """By what share a number has changed; infinite where it was nothing, None where there is none."""
    if was is None or now is None:
        return None
    if was == now:
        return 0.0
    return (now - was) / abs(was) if was else float("inf") * (1 if now > 0 else -1)


def is_over(change: Change, limit: float) -> bool:
    """Whether a change is larger than a share; what came or went is, words and drawings have no size."""
    match change:
        case NumberChange(was=was, now=now) | CellChange(was=was, now=now):
            share = relative(was, now)
            return share is None or abs(share) > limit
        case RowsChange():
            return True
        case PartChange(part=part):
            return not isinstance(part, Words) or bool(part.values)
    return False
