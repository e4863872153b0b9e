"""Where the letters of running text stand in the page, which Markdown's parser and the shield have taken out of it."""

from __future__ import annotations

from bisect import bisect_right

from markdown_it.token import Token as MdToken
from msgspec import Struct

from wornpage.source.placing import AT
from wornpage.source.shield import RUN, Shielded, index_of
from wornpage.tree.span import Span


class Lie(Struct, frozen=True):
    """How the text of one block lies in the lines of the shielded page: from which letter on it stands where."""

    offsets: list[int]
    places: list[tuple[int, int]]
    """Line and column, from 0, of each of those letters."""
    within: int = 0
    """For text within text, such as what stands for an image: where it begins."""

    def place(self, offset: int) -> tuple[int, int]:
        """Line and column of a letter."""
        number = bisect_right(self.offsets, offset + self.within) - 1
        line, column = self.places[number]
        return line, column + offset + self.within - self.offsets[number]


def lie_of(text: str, lines: list[str], first: int, after: int | None = None) -> Lie | None:
    """How `text` lies in `lines` from the `first` on: at their ends, or for a cell, in that line from the column `after` on.

    None if it is not found there.
    """
    offsets: list[int] = []
    places: list[tuple[int, int]] = []
    offset = 0
    for number, part in enumerate(text.split("\n"), first):
        line = lines[number] if number < len(lines) else ""
        column = _column(part, line, after if number == first else None)
        if column < 0:
            return None
        for piece in _pieces(part, line, column):
            offsets.append(offset + piece[0])
            places.append((number, piece[1]))
        offset += len(part) + 1
    return Lie(offsets, places)


def _column(part: str, line: str, after: int | None) -> int:
    """Where one line of a text begins in a line of the page; -1 for nowhere."""
    part = part.rstrip()
    whole = line.rstrip()
    if after is None and whole.endswith(part):
        return len(whole) - len(part)
    after = after or 0
    found = line.find(part, after)
    return found if found >= 0 else line.find(part.replace("|", "\\|").strip(), after)


def _pieces(part: str, line: str, column: int) -> list[tuple[int, int]]:
    """Offset and column of what stands together: in a cell of a table a backslash before each `|` has been left out."""
    if "|" not in part or line.startswith(part.rstrip(), column):
        return [(0, column)]
    found = [(0, column)]
    for count, offset in enumerate((i for i, letter in enumerate(part) if letter == "|"), 1):
        found.append((offset, column + offset + count))
    return found


class Places:
    """From lines and columns of a shielded page to those of the page as written."""

    def __init__(self, shielded: Shielded, file: str) -> None:
        self._file = file
        self._ends: dict[int, list[tuple[int, int]]] = {}
        """By line: behind which column of the shielded text which one follows in the page."""
        line, start = 0, 0
        for match in RUN.finditer(shielded.text):
            line += shielded.text.count("\n", start, match.end())
            start = match.end()
            piece = shielded.pieces[index_of(match)]
            last = piece.raw.rfind("\n")
            column = piece.span.column - 1 + len(piece.raw) if last < 0 else len(piece.raw) - last - 1
            begin = shielded.text.rfind("\n", 0, start) + 1
            self._ends.setdefault(line, []).append((start - begin, column))

    def span(self, token: MdToken, lie: Lie | None, otherwise: Span) -> Span:
        """Where a token of running text begins; `otherwise` if that is not known."""
        offset = token.meta.get(AT)
        if offset is None or lie is None:
            return otherwise
        # Of two signs in a row that open something strong, the parser takes the second for the one that opens it.
        line, column = lie.place(offset - (token.type == "strong_open"))
        return otherwise.at(line + 1, self.as_written(line, column) + 1)

    def as_written(self, line: int, column: int) -> int:
        """The column, from 0, in the page as written."""
        for end, written in reversed(self._ends.get(line, ())):
            if end <= column:
                return written + column - end
        return column


def first_cell(line: str) -> int:
    """The column in which the first cell of a row may begin: behind the bar that opens it."""
    bar = line.find("|")
    return bar + 1 if bar >= 0 and not line[:bar].strip(" >\t") else 0
