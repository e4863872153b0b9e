"""Tokens of a page, section by section: while a page is written, sections that stay as they are need not be parsed again.

A page is cut only where a heading certainly begins a block of the page itself. Where that cannot be told soon (notes, links that
are written elsewhere, HTML, code by indentation), the page is parsed as a whole, as it always is without a memory.
"""

from __future__ import annotations

import re
from collections.abc import Iterator

from markdown_it.token import Token as MdToken

from wornpage.source.grammar import CAPTION, grammar

_HEADING = re.compile(r"#{1,6}[ \t]")
_WHOLE = re.compile(r"^(?:[ >\t]*\[[^\]\n]+\]:| {0,3}<)|<!|<\?", re.MULTILINE)
"""What reaches beyond its section, or may hold anything."""
_FENCE = re.compile(r"(?P<before>[ \t>]*(?:(?:[-*+]|\d{1,9}[.)])[ \t]+)*)(?P<fence>`{3,}|~{3,})(?P<info>.*)$")
_BOX = re.compile(r"(?P<before>[ \t>]*(?:(?:[-*+]|\d{1,9}[.)])[ \t]+)*)(?P<colons>:{3,})[ \t]*(?P<words>.*)$")
_INDENTED = 3
"""Spaces before a fence of the page itself."""
_SMALL = 20_000
"""Letters below which a page is parsed soon enough."""


class Sections:
    """The sections of one page as they were last parsed. For one thread: tokens are moved when lines come in above them."""

    def __init__(self) -> None:
        self._known: dict[str, list[_Section]] = {}

    def tokens(self, text: str, found: dict[str, object]) -> list[MdToken]:
        """The tokens of `text`; what the parser finds beside them goes into `found`."""
        cuts = list(_cuts(text)) if len(text) > _SMALL and not _WHOLE.search(text) else []
        if not cuts:
            return grammar().parse(text, found)
        lines = text.split("\n")
        earlier, self._known = self._known, {}
        made: list[MdToken] = []
        for first, last in zip([0, *cuts], [*cuts, len(lines)], strict=True):
            section = "\n".join(lines[first:last]) + "\n" * (last < len(lines))
            same = earlier.get(section)
            one = same.pop() if same else _Section(grammar().parse(section), 0)
            one.move(first)
            self._known.setdefault(section, []).append(one)
            made += one.tokens
        return made


class _Section:
    """Tokens, and the line of the page that they begin in."""

    def __init__(self, tokens: list[MdToken], first: int) -> None:
        self.tokens, self.first = tokens, first

    def move(self, first: int) -> None:
        """Have them begin in another line."""
        by = first - self.first
        if by:
            for token in self.tokens:
                if token.map:
                    token.map = [token.map[0] + by, token.map[1] + by]
        self.first = first


def _cuts(text: str) -> Iterator[int]:
    """Numbers of the lines, from 0, in which a section may begin."""
    fence, boxes, above, in_caption = "", list[str](), "", False
    for number, line in enumerate(text.split("\n")):
        found = _FENCE.match(line)
        is_plain = found is not None and not found["before"].strip() and len(found["before"].expandtabs(4)) <= _INDENTED
        if fence:
            if found and is_plain and found["fence"].startswith(fence) and not found["info"].strip():
                fence = ""
        elif found and not (found["fence"][0] == "`" and "`" in found["info"]):
            if found["before"] or in_caption:
                return  # a fence in a list or a quotation, or code by indentation: where it ends hangs on what is around it
            fence = found["fence"]
        elif box := _BOX.match(line):
            if box["before"] or in_caption or (not box["words"] and boxes[-1:] != [box["colons"]]):
                return  # in a list, or with other colons than its beginning
            if box["words"]:
                boxes.append(box["colons"])
            else:
                boxes.pop()
        elif number and not boxes and not above.strip() and _HEADING.match(line):
            yield number
        in_caption = bool(line.strip()) and (in_caption or CAPTION.match(line.lstrip(" \t>")) is not None)
        above = line
