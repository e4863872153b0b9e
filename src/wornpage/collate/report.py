"""What came of the changes in a document."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Literal

from msgspec import Struct

from wornpage.collate.letters import By

Outcome = Literal["merged", "reported", "conflict"]


class Edit(Struct):
    """One change of a reviewer."""

    what: str
    """In words: `words`, `emphasis`, `heading`, `new paragraph`, …"""
    line: int
    column: int
    old: str
    new: str
    outcome: Outcome = "merged"
    why: str = ""
    """Why it was not merged."""
    by: By | None = None
    source: str = ""
    """In a conflict: what the page says there now."""


class Remark(Struct, frozen=True):
    """A comment, with where it belongs."""

    number: str
    author: str
    date: str
    text: str
    line: int
    column: int
    quote: str
    around: str
    answers: str = ""
    done: bool = False


class Patch(Struct, frozen=True):
    """New text for a stretch of the source."""

    start: int
    end: int
    text: str
    edits: tuple[int, ...] = ()
    """The edits that it brings in, by their places in the list of all."""
    order: int = 0
    """Among what is put in at one place: which stands first."""


def applied(text: str, patches: Iterable[Patch]) -> str:
    """A text with patches that do not lie across each other."""
    for patch in sorted(patches, key=lambda one: (one.start, one.end, one.order), reverse=True):
        text = text[: patch.start] + patch.text + text[patch.end :]
    return text
