"""Answers of value marks, kept in one file a page: each with what it read."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from wornpage.plan.state import State
from wornpage.plan.traces import items_in, value_read
from wornpage.store.place import write_whole
from wornpage.store.signing import opened, sealed
from wornpage.store.traces import Item, digest
from wornpage.tree.nodes import ValueMark

_VARIANTS = 6
"""Answers of one expression that are kept: as many as people go back and forth between."""


class MarkStore:
    """What marks of a page found when they were last asked."""

    def __init__(self, folder: Path, page: str, use: bool) -> None:
        self._path = folder / f"{digest(page)}.marks"
        self._known: dict[str, list[dict[str, Any]]] = {}
        self._changed = False
        if use:
            try:
                self._known = opened(self._path.read_bytes(), self._path.name)
            except (OSError, ValueError):
                self._known = {}

    def find(self, mark: ValueMark, now: Callable[[Item], str]) -> dict[str, Any] | None:
        """The answer of a mark that reads nothing new, and its reads."""
        for variant in self._known.get(_key(mark), ()):
            if all(now((kind, name)) == value for kind, name, value in variant["reads"]):
                return variant
        return None

    def last(self, mark: ValueMark) -> dict[str, Any] | None:
        """The answer a mark had when it was last asked, whether it still holds or not."""
        known = self._known.get(_key(mark))
        return known[0]["answer"] if known else None

    def put(self, mark: ValueMark, found: dict[str, Any], state: State, seed: int) -> list[list[str]]:
        """Keep an answer; returns what it read."""
        items = sorted(items_in(found, state))
        reads = [[kind, name, value_read((kind, name), found, state, seed)] for kind, name in items]
        answer = {"type": found["type"], "value": found["value"]}
        variants = self._known.setdefault(_key(mark), [])
        variants.insert(0, {"reads": reads, "answer": answer})
        del variants[_VARIANTS:]
        self._changed = True
        return reads

    def save(self, may_write: bool) -> None:
        """Write the file if anything is new."""
        if self._changed and may_write:
            write_whole(self._path, sealed(self._known, self._path.name))
            self._changed = False


def _key(mark: ValueMark) -> str:
    form = mark.form if mark.form[:1] in {'"', "'"} else ""
    return digest(mark.expression, form, *filter(None, (mark.span.within,)))
