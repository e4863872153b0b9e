"""Entries of bibliographies as CSL-JSON has them, from BibTeX, BibLaTeX or CSL-JSON files, each with its place."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterable
from pathlib import Path
from typing import Any, Protocol

from msgspec import Struct, field

from wornpage.tree.files import file_bytes
from wornpage.tree.problem import Problem, Severity, near_miss
from wornpage.tree.span import Span


class Entry(Struct, frozen=True):
    """One work."""

    key: str
    data: dict[str, Any]
    """CSL-JSON without `id`: `type`, `title`, `author` …; text may hold `<i>`, `<sup>`, `<span class="nocase">` …"""
    span: Span


class Library(Struct):
    """All entries by key, and what was wrong with the files."""

    entries: dict[str, Entry] = field(default_factory=dict)
    problems: list[Problem] = field(default_factory=list)
    files: list[Path] = field(default_factory=list)


class Memory(Protocol):
    """Where plain data is kept by key between pressings."""

    def get(self, *key: str) -> Any:
        """What was kept; None for nothing."""

    def put(self, value: object, *key: str) -> None:
        """Keep `value`."""


def read_library(names: Iterable[tuple[str, Span]], folder: Path, memory: Memory | None = None) -> Library:
    """The entries of several files in `folder`, named with the places where the settings name them.

    A file that is not there or cannot be read is an error; what is wrong inside is a warning, and the rest still works.
    """
    library = Library()
    for name, place in names:
        path = folder / name
        library.files.append(path)
        try:
            data = file_bytes(path)
        except OSError as error:
            library.problems.append(_unreadable(path, name, place, error.strerror or "it cannot be read"))
            continue
        try:
            text = data.decode("utf-8-sig")
        except UnicodeDecodeError as error:
            line = data[: error.start].count(b"\n") + 1
            column = error.start - data[: error.start].rfind(b"\n")
            what = f"{name} is not UTF-8; letters in it may be wrong."
            span = Span(name, line, column)
            library.problems.append(Problem(span, what, "Save it as UTF-8.", Severity.WARNING))
            text = data.decode("latin-1")
        _add(library, name, text, memory)
    return library


def _unreadable(path: Path, name: str, place: Span, why: str) -> Problem:
    beside: list[str] = []
    if path.parent.is_dir():
        beside = sorted(other.name for other in path.parent.iterdir() if other.suffix in {".bib", ".json", ".bibtex"})
    return Problem(place, f"the bibliography {name!r} cannot be read: {why}.", near_miss(path.name, beside))


def _add(library: Library, name: str, text: str, memory: Memory | None) -> None:
    key = (Path(name).suffix, hashlib.blake2b(text.encode("utf-8", "surrogatepass")).hexdigest())
    kept = memory.get(*key) if memory is not None else None
    if kept is None:
        kept = _read(name, text)
        if memory is not None:
            memory.put(kept, *key)
    for line, column, what, hint in kept["problems"]:
        library.problems.append(Problem(Span(name, line, column), what, hint, Severity.WARNING))
    for entry_key, line, data in kept["entries"]:
        earlier = library.entries.get(entry_key)
        if earlier is not None:
            what = f"the key {entry_key!r} is already that of the entry at {earlier.span.file}:{earlier.span.line}."
            library.problems.append(Problem(Span(name, line), what, "The first one is used.", Severity.WARNING))
        else:
            library.entries[entry_key] = Entry(entry_key, data, Span(name, line))


def _read(name: str, text: str) -> dict[str, Any]:
    """Entries (key, line, data) and problems (line, column, what, hint) of one text, as plain data."""
    if name.endswith(".json"):
        return _from_json(text)
    from wornpage.sources.bibtex import from_bibtex

    return from_bibtex(text)


def _from_json(text: str) -> dict[str, object]:
    try:
        data = json.loads(text)
    except ValueError as error:
        line, column = getattr(error, "lineno", 1), getattr(error, "colno", 1)
        return {"entries": [], "problems": [[line, column, f"this is no JSON: {getattr(error, 'msg', error)}.", ""]]}
    from wornpage.sources.csl_json import normalised

    entries, problems = [], []
    lines = text.split("\n")
    for place, item in enumerate(data if isinstance(data, list) else [data]):
        if not isinstance(item, dict) or not item.get("id"):
            problems.append(
                [1, 1, f"entry {place + 1} has no `id`.", "CSL-JSON is a list of objects with `id` and `type`."]
            )
            continue
        key = str(item["id"])
        quoted = json.dumps(key, ensure_ascii=False)
        line = next((number for number, each in enumerate(lines, 1) if '"id"' in each and quoted in each), 1)
        kept, odd = normalised(item)
        problems += [[line, 1, f"{key!r}: `{field}` makes no sense and is left out.", ""] for field in odd]
        entries.append([key, line, kept])
    return {"entries": entries, "problems": problems}
