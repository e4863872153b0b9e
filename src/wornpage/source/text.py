"""Bytes of a file to text, and its front matter told from its body."""

from __future__ import annotations

import re
from pathlib import Path

from wornpage.source.page import FrontMatter
from wornpage.tree.files import file_bytes
from wornpage.tree.problem import PageError, Problem, near_miss
from wornpage.tree.span import Span

MOST_TEXT = 64_000_000
"""Bytes of a page, or of a file it inserts."""
_FRONT_END = re.compile(r"^(?:---|\.\.\.)[ \t]*$")


def read_text(path: Path, name: str) -> str:
    """The text of a file with `\\n` line ends. Raises `PageError` when it cannot be read; `name` is for messages."""
    span = Span(name, 1)
    try:
        data = file_bytes(path, MOST_TEXT)
    except FileNotFoundError:
        raise PageError([Problem(span, "there is no such file.", _neighbours(path))]) from None
    except IsADirectoryError:
        what = "this is a folder; a page is a file."
        raise PageError([Problem(span, what, _neighbours(path / "x"))]) from None
    except OSError as error:
        raise PageError([Problem(span, f"cannot be read: {error.strerror}.")]) from None
    try:
        text = data.decode("utf-8")
    except UnicodeDecodeError as error:
        line = data.count(b"\n", 0, error.start) + 1
        column = error.start - data.rfind(b"\n", 0, error.start)
        what = f"byte {data[error.start]:#04x} is not UTF-8."
        hint = "Save the file with the encoding UTF-8."
        raise PageError([Problem(Span(name, line, column), what, hint)]) from None
    return normal(text)


def normal(text: str) -> str:
    """`text` with `\\n` line ends and without a byte order mark."""
    return text.removeprefix("\ufeff").replace("\r\n", "\n").replace("\r", "\n")


def as_encoded(text: str, before: bytes) -> bytes:
    """`text` with the line ends, and the mark at the beginning, that the file `before` had."""
    ends = b"\r\n" if b"\r\n" in before else b"\r" if b"\r" in before and b"\n" not in before else b"\n"
    mark = b"\xef\xbb\xbf" if before.startswith(b"\xef\xbb\xbf") else b""
    return mark + text.encode("utf-8", "surrogatepass").replace(b"\n", ends)


def line_starts(text: str) -> list[int]:
    """The offset of each line."""
    return [0, *(match.end() for match in re.finditer("\n", text))]


def _neighbours(path: Path) -> str:
    """Pages that lie where `path` was looked for."""
    try:
        names = sorted(entry.name for entry in path.parent.iterdir() if entry.suffix == ".md")
    except OSError:
        return ""
    near = near_miss(path.name, names)
    return near or (f"Pages there: {', '.join(names[:4])}." if names else "")


def front_matter_of(text: str, name: str) -> tuple[FrontMatter, str, list[Problem]]:
    """Front matter, and the body with the front matter's lines left blank so that lines keep their numbers."""
    lines = text.split("\n")
    first = next((number for number, line in enumerate(lines) if line.strip()), 0)
    if lines[first].rstrip() != "---":
        return FrontMatter("", 1), text, []
    for number, line in enumerate(lines[first + 1 :], first + 1):
        if _FRONT_END.match(line):
            front = FrontMatter("\n".join(lines[first + 1 : number]) + "\n", first + 2)
            return front, "\n" * (number + 1) + "\n".join(lines[number + 1 :]), []
    what = "the front matter that begins here is never closed."
    problem = Problem(Span(name, first + 1), what, "Put a line with `---` after its last key.")
    return FrontMatter("", 1), "\n" * (len(lines) - 1), [problem]
