"""The whole source: a stationery's template filled with the page's pieces, and which of its lines came from where."""

from __future__ import annotations

import re

from msgspec import Struct

from wornpage.output.frame import BARE, FrameFault, framed
from wornpage.output.stationery import Stationery
from wornpage.tree.problem import PageError, Problem
from wornpage.tree.span import Span

_MARK = re.compile(r"^(.*?)%worn-place (\d+) (.*)$")


class Source(Struct, frozen=True):
    """A LaTeX source."""

    text: str
    places: tuple[tuple[int, Span], ...]
    """From which line, counted from 1, what follows is made of what stands at a place of the page."""
    folder: str
    """The folder of what lies beside it."""

    def place_of(self, line: int, name: str) -> Span:
        """Where what stands in a line of the source was written."""
        found = [span for first, span in self.places if first <= line]
        return found[-1] if found else Span(name, 1)


def mark(span: Span) -> str:
    """A line that says where the block below it is written; it does not stay."""
    return f"%worn-place {span.line} {span.file}\n"


def is_mark(line: str) -> bool:
    """Whether a line is nothing but such a mark."""
    return line.startswith("%worn-place ")


def filled(stationery: Stationery, pieces: dict[str, str], values: dict[str, object], name: str, folder: str) -> Source:
    """The source. Raises `PageError` where the template is none, or asks for what there is not."""
    try:
        text = framed(stationery.looks["sheet.tex.j2"][-1], pieces, values, BARE)
    except FrameFault as fault:
        where = f"{stationery.name}/sheet.tex.j2" if stationery.folder else name
        raise PageError([Problem(Span(where, fault.line), fault.what, fault.hint)]) from None
    lines: list[str] = []
    places: list[tuple[int, Span]] = []
    before = ""
    for line in text.strip().split("\n"):
        found = _MARK.match(line)
        if found:
            before += found[1]
            places.append((len(lines) + 1, Span(found[3], int(found[2]))))
        else:
            lines.append(f"{before}{line}".rstrip())
            before = ""
    return Source("\n".join(lines) + "\n", tuple(places), folder)
