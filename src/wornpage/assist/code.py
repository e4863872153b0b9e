"""Help within chunks of Python: names, attributes, signatures and documentation of what the page's code says, and what its values had when the page last ran.

The page's chunks are read as one program, each line where it stands in the page, so that what a chunk above has defined is known below.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from concurrent.futures import CancelledError
from functools import partial
from pathlib import Path
from typing import Any

from wornpage.assist.completing import Suggestion, suggestions
from wornpage.assist.document import Document
from wornpage.assist.reading import Reader
from wornpage.plan.reasons import Reasons
from wornpage.store.place import own_name, store_of
from wornpage.tree import nodes as n

_KEY = re.compile(r"(\w+)\s*(?:\.i?loc\s*)?\[[\s:,\[]*(?:[\"'][^\"']*[\"']\s*,\s*)*([\"'])([^\"'\]]*)$")
_DOT = re.compile(r"(?<![\w.)\]])(\w+)\.(\w*)$")
_COLUMN = re.compile(r"(?<![\w.)\]])(\w+)\$(\w*)$")
_PATIENCE = 1.5
"""Seconds that whoever writes waits for help."""
_reader = Reader()
_MOST = 200
_LONGEST = 4_000
"""Letters of documentation that are shown."""


def offered(document: Document, line: int, column: int) -> list[Suggestion]:
    """What may stand at a place: what the page's own words may be, or within a chunk what its code may."""
    return suggestions(document, line, column) or in_code(document, line, column) or []


def in_code(document: Document, line: int, column: int) -> list[Suggestion] | None:
    """What may stand at a place within a chunk, both counted from 0; None where it is none whose language is known."""
    chunk = _chunk(document, line)
    if chunk is None:
        return None
    before = document.before(line, column)
    if match := _KEY.search(before):
        return [Suggestion(part, f"of {match[1]}", kind="part") for part in _parts(document, chunk).get(match[1], ())]
    if chunk.language == "r":
        match = _COLUMN.search(before)
        names = _parts(document, chunk).get(match[1], ()) if match else ()
        return [Suggestion(part, f"of {match[1]}", kind="part") for part in names] if match else None
    if chunk.language != "python":
        return None
    own: list[Suggestion] = []
    if match := _DOT.search(before):
        parts = _parts(document, chunk).get(match[1], ())
        own = [Suggestion(part, f"column of {match[1]}", kind="part") for part in parts if part.isidentifier()]
    known = {one.text for one in own}
    return own + [one for one in _from_code(document, chunk, line, column) if one.text not in known]


def said_in_code(document: Document, line: int, column: int) -> str:
    """What a name in a chunk is: its signature and its documentation, in Markdown; empty for nothing."""
    chunk = _chunk(document, line)
    if chunk is None or chunk.language != "python":
        return ""
    for one in _asked(document, chunk, "help", line, column):
        signatures = [found.to_string() for found in one.get_signatures()]
        head = "\n".join(signatures) or f"{one.type} {one.full_name or one.name}"
        documentation = one.docstring(raw=True).strip()[:_LONGEST]
        parts = _parts(document, chunk).get(one.name, ())
        has = f"\n\nIt has: {', '.join(f'`{part}`' for part in parts[:40])}" if parts else ""
        return f"```python\n{head}\n```{has}" + (f"\n\n{documentation}" if documentation else "")
    return ""


def signatures_at(document: Document, line: int, column: int) -> list[tuple[str, list[str], int]]:
    """Signatures of the call that a place stands in: each as text, its parameters, and which of them is being written."""
    chunk = _chunk(document, line)
    if chunk is None or chunk.language != "python":
        return []
    return [
        (one.to_string(), [parameter.to_string() for parameter in one.params], one.index or 0)
        for one in _asked(document, chunk, "get_signatures", line, column)
    ]


def _chunk(document: Document, line: int) -> n.Chunk | None:
    chunk = document.chunk_at(line)
    return chunk if chunk is not None and line >= chunk.code_line - 1 else None


def _from_code(document: Document, chunk: n.Chunk, line: int, column: int) -> Iterator[Suggestion]:
    for one in _asked(document, chunk, "complete", line, column)[:_MOST]:
        if not one.name.startswith("_") or document.before(line, column).rstrip().endswith("_"):
            yield Suggestion(one.name, one.type, kind=one.type if one.type in _KINDS else "value")


_KINDS = ("function", "class", "module", "instance", "statement", "param", "keyword", "property")


def _asked(document: Document, chunk: n.Chunk, what: str, line: int, column: int) -> list[Any]:
    """What the reader of code says at a place; nothing where it fails over code that is being written.

    It reads whole libraries when they are first asked of, which takes seconds: then it goes on while nobody waits, and knows the next time.
    """
    text, path = _program(document, chunk), document.path
    future = _reader.ask(partial(_read, text, path, what, line + 1, column))
    try:
        return future.result(_PATIENCE)
    except (TimeoutError, CancelledError):
        return []


def _read(text: str, path: Path, what: str, line: int, column: int) -> list[Any]:
    import jedi

    try:
        script = jedi.Script(text, path=path.with_suffix(".py"), project=jedi.Project(path.parent))
        found = list(getattr(script, what)(line, column))
        for one in found[:1]:
            one.get_signatures()  # so that it is known here, and need not be found out in the thread that asks
        return found
    except Exception:  # code that is being written may be anything
        return []


def warm(document: Document) -> None:
    """Have what the page's code imports read already, while nobody waits."""
    chunks = [chunk for chunk in document.page.chunks if chunk.language == "python" and not chunk.span.within]
    if not chunks:
        return
    text = _program(document, chunks[-1])
    for number, line in enumerate(text.split("\n"), 1):
        if match := re.match(r"\s*(?:import|from)\s+([\w.]+)", line):
            _reader.later(partial(_read, text, document.path, "infer", number, match.start(1) + 1))


def _program(document: Document, last: n.Chunk) -> str:
    """The page's chunks of Python up to one, each line in its place; the page's own names are known."""
    lines = [""] * max(len(document.lines), 1)
    for chunk in document.page.chunks:
        if chunk.language != "python" or chunk.span.file != document.path.name:
            continue
        first = chunk.code_line - 1
        for at in range(chunk.code.rstrip("\n").count("\n") + 1):
            if first + at < len(lines):
                lines[first + at] = document.lines[first + at][chunk.indent :]
        if chunk is last:
            break
    lines[0] = "from wornpage import page, given"
    return "\n".join(lines)


def _parts(document: Document, chunk: n.Chunk) -> dict[str, tuple[str, ...]]:
    """Columns and keys by name, as they were when the page last ran: those of the last chunk above that bound the name."""
    last = Reasons(store_of(document.path) / "last", own_name(document.path)).last
    found: dict[str, tuple[str, ...]] = {}
    for one in document.page.chunks:
        if one.label in last:
            found |= last[one.label].parts
        if one is chunk:
            break
    return found
