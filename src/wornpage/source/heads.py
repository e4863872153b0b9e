"""Title, subtitle and abstract in the front matter, letter by letter: how each letter of a YAML text is written.

Understood are texts in one line, plain or in quotation marks without escapes, and blocks (`|`, `>`) whose lines begin alike.
Others have no letters here, so that nothing is changed in them.
"""

from __future__ import annotations

import re
from collections.abc import Iterator

from msgspec import Struct

_KEY = re.compile(r"^(title|subtitle|abstract):[ \t]+(\S.*?)[ \t]*$")
_BLOCK = re.compile(r"^[|>][+-]?$")
_NOT_PLAIN = re.compile(r"^[-?:,\[\]{}#&*!|>'\"%@`]|: | #|:$")


class HeadText(Struct, frozen=True):
    """One text of the front matter."""

    name: str
    """`title`, `subtitle` or `abstract`."""
    text: str
    """As YAML reads it."""
    offsets: tuple[int, ...]
    """Where in the page each of its letters is written."""
    line: int
    """From 0: where its first letter counts as standing when the page is read."""
    column: int
    """So from 0; in a block its letters count from the edge."""


def head_texts(text: str) -> Iterator[HeadText]:
    """The texts that are understood, of a page's front matter."""
    lines = text.split("\n")
    first = next((number for number, line in enumerate(lines) if line.strip()), 0)
    if not lines or lines[first].rstrip() != "---":
        return
    start = sum(len(line) + 1 for line in lines[: first + 1])
    for number in range(first + 1, len(lines)):
        line = lines[number]
        if line.rstrip() in {"---", "..."}:
            return
        found = _KEY.match(line)
        if found:
            if _BLOCK.match(found[2]):
                yield from _block(found, lines, number, start)
            else:
                yield from _line(found, number, start)
        start += len(line) + 1


def _line(found: re.Match[str], number: int, start: int) -> Iterator[HeadText]:
    """A text in one line."""
    value, at = found[2], found.start(2)
    quote = value[0] if value[0] in "'\"" else ""
    inner = value[1:-1] if quote else value
    if quote and (len(value) < 2 or value[-1] != quote or quote in inner or (quote == '"' and "\\" in inner)):
        return
    if not quote and is_quoted_for(value):
        return
    begin = start + at + len(quote)
    column = 0 if found[1] == "abstract" else at
    yield HeadText(found[1], inner, tuple(range(begin, begin + len(inner))), number, column)


def is_quoted_for(text: str) -> bool:
    """Whether a text must stand in quotation marks."""
    return _NOT_PLAIN.search(text) is not None


def _block(found: re.Match[str], lines: list[str], number: int, start: int) -> Iterator[HeadText]:
    """A text in lines of its own."""
    folds = found[2].startswith(">")
    place = start + len(lines[number]) + 1
    indent, letters, offsets = 0, [], list[int]()
    for line in lines[number + 1 :]:
        stripped = line.lstrip(" ")
        own = len(line) - len(stripped)
        if stripped:
            indent = indent or own
            if own < indent or not indent:
                break
            if own > indent:
                return
            letters += list(line[indent:])
            offsets += range(place + indent, place + len(line))
        letters.append("\n")
        offsets.append(place + len(line))
        place += len(line) + 1
    text = "".join(letters)
    kept = list(range(len(text.rstrip("\n"))))
    if folds:
        text, kept = _folded(text, kept)
    yield HeadText(
        found[1], "".join(text[at] for at in range(len(kept))), tuple(offsets[at] for at in kept), number + 1, 0
    )


def _folded(text: str, kept: list[int]) -> tuple[str, list[int]]:
    """Single line ends are blanks; of several in a row one is left out."""
    out: list[str] = []
    places: list[int] = []
    at = 0
    while at < len(kept):
        if text[at] != "\n":
            out.append(text[at])
            places.append(at)
            at += 1
            continue
        end = at
        while end < len(kept) and text[end] == "\n":
            end += 1
        out += [" "] if end - at == 1 else ["\n"] * (end - at - 1)
        places += [at] if end - at == 1 else list(range(at, end - 1))
        at = end
    return "".join(out), places
