"""A page as read: its front matter still text, its body a tree."""

from __future__ import annotations

from pathlib import Path

from msgspec import Struct

from wornpage.tree.nodes import Blocks, Chunk
from wornpage.tree.problem import Problem
from wornpage.tree.span import Span


class FrontMatter(Struct, frozen=True):
    """The YAML at the head of a page, not yet read."""

    text: str
    first_line: int
    """Line of the page on which `text` begins, counted from 1."""


class InsertedFile(Struct, frozen=True):
    """A file that is part of a page."""

    path: Path
    span: Span
    """Where it is first named."""


class Page(Struct, frozen=True):
    """One source document."""

    path: Path
    name: str
    """The path as the user wrote it, for messages."""
    text: str
    """With `\\n` line ends and without a byte order mark."""
    front: FrontMatter
    blocks: Blocks
    chunks: tuple[Chunk, ...]
    """In page order."""
    problems: tuple[Problem, ...]
    """Faults found while reading, errors and warnings."""
    files: tuple[InsertedFile, ...] = ()
    """What the page inserts, as far as that is known without running."""
    host: str = ""
    """The ending of a file that is written in a language other than Markdown (`hosts`); empty for Markdown."""
