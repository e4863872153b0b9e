"""Read a page: bytes to text, text to front matter and tree, what it inserts included."""

from __future__ import annotations

from pathlib import Path

from wornpage.source.builder import Built, build
from wornpage.source.conflicts import conflict_problems
from wornpage.source.hosts.table import host_of
from wornpage.source.inserting import with_inserts
from wornpage.source.naming import told_apart
from wornpage.source.page import InsertedFile, Page
from wornpage.source.sections import Sections
from wornpage.source.text import front_matter_of, normal, read_text
from wornpage.tree import nodes as n
from wornpage.tree.problem import Problem, Severity
from wornpage.tree.span import Span
from wornpage.tree.walk import walk


def read_page(path: Path, name: str | None = None, sections: Sections | None = None) -> Page:
    """The page at `path`; faults inside it are kept in `Page.problems`. `sections` remembers what was parsed before.

    Raises `PageError` when the file cannot be read at all.
    """
    shown = name or str(path)
    return parse_page(read_text(path, shown), path, shown, sections)


def parse_page(text: str, path: Path, name: str, sections: Sections | None = None) -> Page:
    """The page that `text` makes."""
    text = normal(text)
    host = host_of(path.name)
    if host is not None:
        read = host.read(text, name)
        chunks = tuple(node for node in read.blocks if isinstance(node, n.Chunk))
        told: tuple[Problem, ...] = (*conflict_problems(text, name), *read.problems)
        if not read.blocks and not told:
            what, hint = "nothing in this file is a chunk or a value.", "A page in Markdown ends in `.md`."
            told = (Problem(Span(name, 1), what, hint, Severity.WARNING),)
        return Page(path, name, text, read.front, read.blocks, chunks, told, host=path.suffix.lower())
    front, body, problems = front_matter_of(text, name)
    built = build(body, name, sections=sections)
    files: tuple[InsertedFile, ...] = ()
    if any(isinstance(node, n.Insert | n.InsertedCode) for node in walk(built.blocks)):
        built, files = _whole(built, path, name)
    undecided = tuple(conflict_problems(text, name))
    return Page(path, name, text, front, built.blocks, built.chunks, (*undecided, *problems, *built.problems), files)


def _whole(built: Built, path: Path, name: str) -> tuple[Built, tuple[InsertedFile, ...]]:
    """A body with what it inserts."""
    inserted = with_inserts(built.blocks, path, name)
    blocks, clashes = told_apart(inserted.blocks)
    chunks = tuple(node for node in walk(blocks) if isinstance(node, n.Chunk))
    problems: tuple[Problem, ...] = (*built.problems, *inserted.problems, *clashes)
    return Built(blocks, chunks, problems), inserted.files
