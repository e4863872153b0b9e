"""Where something stands in a source file."""

from __future__ import annotations

from msgspec import Struct


class Span(Struct, frozen=True, order=True):
    """A place in a source file, as editors count it."""

    file: str
    """The path as the user wrote it, so that messages can be clicked."""
    line: int
    """First line, counted from 1."""
    column: int = 1
    """First character of that line, counted from 1."""
    end_line: int = 0
    """Last line, counted from 1 and included; 0 where only the start is known."""
    within: str = ""
    """In an inserted file: where it is inserted and for what; tells the repetitions of one place apart."""

    def __str__(self) -> str:
        return f"{self.file}:{self.line}:{self.column}"

    def at(self, line: int, column: int = 1) -> Span:
        """The same file, at another place."""
        return Span(self.file, line, column, within=self.within)
