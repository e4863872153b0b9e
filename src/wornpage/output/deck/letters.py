"""How wide text is in the letters of slides, and into how many lines it breaks."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterable, Iterator
from functools import cache
from importlib.resources import files

from wornpage.tree import nodes as n
from wornpage.tree.formula import length

_OTHER = 0.56
"""Ems of a letter that the font lacks."""
_WIDE = 1.0
"""Of one that fills a square, as in Chinese."""
MONO = 0.602
"""Of each letter of code."""
_OF_MATHEMATICS = 0.58
_PIECE = re.compile(r"\s+|\S+")


@cache
def _advances() -> dict[str, tuple[float, float]]:
    """By letter: ems in the regular face and in the bold one."""
    text = (files("wornpage.output.deck") / "advances.txt").read_text(encoding="ascii")
    rows = (line.split() for line in text.splitlines() if not line.startswith("#"))
    return {chr(int(code, 16)): (int(plain) / 1000, int(bold) / 1000) for code, plain, bold in rows}


def width_of(text: str, bold: bool = False) -> float:
    """Ems."""
    known, face = _advances(), int(bold)
    return sum(known[letter][face] if letter in known else _unknown(letter) for letter in text)


def _unknown(letter: str) -> float:
    if unicodedata.combining(letter):
        return 0.0
    return _WIDE if unicodedata.east_asian_width(letter) in "WF" else _OTHER


def lines_of(inlines: n.Inlines, room: float, bold: bool = False) -> int:
    """Lines that running text takes where `room` ems are free; at least one."""
    lines, at = 1, 0.0
    for width, may_break in _words(inlines, bold):
        if width < 0:  # a line ends
            lines, at = lines + 1, 0.0
        elif may_break and at and at + width > room:
            lines, at = lines + 1, width
        else:
            at += width
        while width > room > 1 and at > room:  # a word longer than a line is broken
            lines, at = lines + 1, at - room
    return lines


def natural_width(inlines: n.Inlines, bold: bool = False) -> float:
    """Ems that running text takes on one line."""
    return sum(max(width, 0.0) for width, _ in _words(inlines, bold))


def _words(inlines: n.Inlines, bold: bool) -> Iterator[tuple[float, bool]]:
    """Widths of words and of what lies between, and whether a line may be broken before each; -1 for the end of a line."""
    after_space = True
    for text, width in _runs(inlines, bold):
        if text is None:
            yield width, after_space
            after_space = False
            continue
        for piece in _PIECE.findall(text):
            if piece.isspace():
                yield width_of(" "), False
                after_space = True
                continue
            for part in _breakable(piece):
                yield (width_of(part, bold) if width < 0 else len(part) * width), after_space
                after_space = part is not piece
            after_space = False


def _breakable(word: str) -> Iterable[str]:
    """A word, or its letters where a line may be broken between any of them."""
    if any(unicodedata.east_asian_width(letter) in "WF" for letter in word):
        return list(word)
    return [word]


def _runs(inlines: n.Inlines, bold: bool) -> Iterator[tuple[str | None, float]]:
    """Text with the width of each letter in ems (-1 for that of the font); None and a width for what is no text."""
    for node in inlines:
        match node:
            case n.Text(text=text) | n.Superscript(text=text):
                yield text, -1
            case n.Code(text=text):
                yield text, MONO * 0.86
            case n.SoftBreak():
                yield " ", -1
            case n.HardBreak():
                yield None, -1
            case n.Math(formula=formula):
                yield None, length(formula) * _OF_MATHEMATICS
            case n.InlinePicture(picture=picture):
                yield None, min(picture.width or 1.0, 20.0)
            case n.Footnote(number=number):
                yield str(number), -1
            case n.RawHtmlInline() | n.Anchor():
                pass
            case _:
                yield from _runs(getattr(node, "children", ()), bold)
