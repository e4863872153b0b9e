"""Answers of value marks, kept in one file a page: each with what it read."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from msgspec import Struct

from wornpage.plan.codes import ENGINE
from wornpage.plan.state import View
from wornpage.plan.traces import reads_in
from wornpage.session.results import Answer
from wornpage.session.tasks import Answered
from wornpage.store.addresses import digest
from wornpage.store.place import write_whole
from wornpage.store.signing import opened, sealed
from wornpage.store.trace import Item, Read, as_kept, from_kept
from wornpage.tree.nodes import ValueMark

_VARIANTS = 6
"""Answers of one expression that are kept: as many as people go back and forth between."""


class KeptAnswer(Struct, frozen=True):
    """An answer as it is kept."""

    type: str
    value: object

    def read(self) -> Answer:
        """As it was given."""
        return Answer(self.type, self.value)


class Variant(Struct, frozen=True):
    """What one mark found once."""

    reads: tuple[Read, ...]
    answer: KeptAnswer


class MarkStore:
    """What marks of a page found when they were last asked."""

    def __init__(self, folder: Path, page: str, use: bool) -> None:
        self._path = folder / f"{digest(ENGINE, page)}.marks"
        self._known: dict[str, list[Variant]] = {}
        self._changed = False
        if use:
            try:
                self._known = from_kept(opened(self._path.read_bytes(), self._path.name), dict[str, list[Variant]])
            except (OSError, ValueError):
                self._known = {}

    def find(self, mark: ValueMark, language: str, now: Callable[[Item], str]) -> Variant | None:
        """The answer of a mark that reads nothing new, and its reads."""
        for variant in self._known.get(_key(mark, language), ()):
            if all(now(read.item) == read.value for read in variant.reads):
                return variant
        return None

    def last(self, mark: ValueMark, language: str) -> Answer | None:
        """The answer a mark had when it was last asked, whether it still holds or not."""
        known = self._known.get(_key(mark, language))
        return known[0].answer.read() if known else None

    def put(self, mark: ValueMark, language: str, one: Answered, here: View) -> tuple[Read, ...]:
        """Keep an answer; returns what it read."""
        reads = reads_in(one.found, here)
        variants = self._known.setdefault(_key(mark, language), [])
        variants.insert(0, Variant(reads, KeptAnswer(one.answer.type, one.answer.value)))
        del variants[_VARIANTS:]
        self._changed = True
        return reads

    def save(self, may_write: bool) -> None:
        """Write the file if anything is new."""
        if self._changed and may_write:
            write_whole(self._path, sealed(as_kept(self._known), self._path.name))
            self._changed = False


def _key(mark: ValueMark, language: str) -> str:
    form = mark.form if mark.form[:1] in {'"', "'"} else ""
    return digest(language, mark.expression, form, *filter(None, (mark.span.within,)))
