"""Blocks of a page opened in its proof: where their Markdown stands, and writing it back."""

from __future__ import annotations

import re
from pathlib import Path

from msgspec import Struct

from wornpage.output.atomic import write_file
from wornpage.source import Page
from wornpage.source.editing import write_page
from wornpage.tree.problem import UsageError

_BELONGS = re.compile(r"(?:Caption|Label)\b[^:\n]*:|\{(?:steps|[\w-]+)=")
"""How a line begins that belongs to the block above it."""


class Opened(Struct, frozen=True):
    """The source of one block."""

    first: int
    """Its first line, counted from 1."""
    last: int
    text: str
    """Those lines, without the last line's end."""


def opened(page: Page, line: int) -> Opened:
    """The block of the page's own level that stands at a line, with what belongs to it. Raises `UsageError` where there is none."""
    begins = sorted({block.span.line for block in page.blocks if block.span.file == page.name})
    first = max((begin for begin in begins if begin <= line), default=0)
    if not first:
        raise UsageError("there is nothing at this place that could be opened.")
    lines = page.text.split("\n")
    after = min((begin for begin in begins if begin > first), default=len(lines) + 1)
    end = max((block.span.end_line for block in page.blocks if block.span.line == first), default=0) or first
    last = _with_what_belongs(lines, min(max(end, line if line < after else first), after - 1), after - 1)
    while last > first and not lines[last - 1].strip():
        last -= 1
    return Opened(first, last, "\n".join(lines[first - 1 : last]))


def _with_what_belongs(lines: list[str], end: int, limit: int) -> int:
    """The last line of captions, labels and attributes that follow a block which ends at `end`, counted from 1."""
    at = end
    while at > 1 and not lines[at - 1].strip():
        at -= 1
    while at < limit:
        ahead = at
        while ahead < limit and not lines[ahead].strip():
            ahead += 1
        if ahead >= limit or not (_BELONGS.match(lines[ahead]) or (ahead == at and lines[ahead].strip())):
            return at
        at = ahead + 1
        while at < limit and lines[at].strip():
            at += 1
    return at


def with_block(page: Page, first: int, before: str, after: str) -> str:
    """The whole text of a page with other text in place of a block. Raises `UsageError` where the block is no longer what was shown."""
    lines = page.text.split("\n")
    old = before.split("\n")
    if lines[first - 1 : first - 1 + len(old)] != old:
        raise UsageError("the page was changed meanwhile. Copy what you have written, and open it again.")
    new = after.replace("\r\n", "\n").rstrip("\n").split("\n")
    return "\n".join([*lines[: first - 1], *new, *lines[first - 1 + len(old) :]])


def write_block(path: Path, page: Page, first: int, before: str, after: str) -> None:
    """Put other text in place of a block, which must still be what was shown. Raises `UsageError`."""
    write_page(path, page.text, with_block(page, first, before, after), write_file)
