"""Carrying changes over to a source that has been changed meanwhile: word by word; what both have changed is a conflict."""

from __future__ import annotations

from collections.abc import Iterable

from msgspec import Struct

from wornpage.collate.report import Patch
from wornpage.collate.wording import pieces, same


class Conflict(Struct, frozen=True):
    """Both have changed the same words."""

    start: int
    end: int
    """In the source as it is now."""
    ours: str
    """What stands there now."""
    theirs: str
    """What the reviewer made of it."""
    edits: tuple[int, ...] = ()


class Rebased(Struct, frozen=True):
    """Changes for the source as it is now."""

    patches: list[Patch]
    conflicts: list[Conflict]
    made_already: tuple[int, ...] = ()
    """Edits that the source has had meanwhile."""


def changes(old: str, new: str) -> list[Patch]:
    """What has become of a text, in words, within the lines that have changed."""
    if old == new:
        return []
    first, second = old.splitlines(keepends=True), new.splitlines(keepends=True)
    starts, others = _starts(first), _starts(second)
    found: list[Patch] = []
    above, before = 0, 0
    for at, to in [*same(first, second), (len(first), len(second))]:
        if at > above or to > before:
            found += _changed_words(old[starts[above] : starts[at]], new[others[before] : others[to]], starts[above])
        above, before = at + 1, to + 1
    return found


def _starts(lines: list[str]) -> list[int]:
    made = [0]
    for line in lines:
        made.append(made[-1] + len(line))
    return made


def _changed_words(old: str, new: str, shift: int) -> list[Patch]:
    left, right = pieces(old), pieces(new)
    matched = same([old[a:b] for a, b in left], [new[a:b] for a, b in right])
    found: list[Patch] = []
    above, before = 0, 0
    for at, to in [*matched, (len(left), len(right))]:
        if at > above or to > before:
            start = left[above][0] if above < len(left) else len(old)
            end = left[at - 1][1] if at > above else start
            begin = right[before][0] if before < len(right) else len(new)
            stop = right[to - 1][1] if to > before else begin
            found.append(Patch(shift + start, shift + end, new[begin:stop]))
        above, before = at + 1, to + 1
    return found


def narrowed(text: str, patches: Iterable[Patch]) -> list[Patch]:
    """Patches that change no more than the words that differ."""
    found: list[Patch] = []
    for patch in patches:
        old = text[patch.start : patch.end]
        if not old or not patch.text:
            found.append(patch)
            continue
        for one in _changed_words(old, patch.text, patch.start):
            found.append(Patch(one.start, one.end, one.text, patch.edits))
    return found


def rebase(base: str, now: str, patches: Iterable[Patch]) -> Rebased:
    """Changes of `base` as changes of `now`."""
    own = changes(base, now)
    made: list[Patch] = []
    conflicts: list[Conflict] = []
    already: list[int] = []
    for patch in narrowed(base, patches):
        touching = [one for one in own if one.start <= patch.end and one.end >= patch.start]
        if any((one.start, one.end, one.text) == (patch.start, patch.end, patch.text) for one in touching):
            already += patch.edits
            continue
        start, end = _carried(own, patch.start, touching), _carried(own, patch.end, touching)
        if touching and not _only_beside(touching, patch):
            low, high = (
                min(patch.start, *(one.start for one in touching)),
                max(patch.end, *(one.end for one in touching)),
            )
            theirs = base[low : patch.start] + patch.text + base[patch.end : high]
            begin, stop = _shift(own, low), _shift(own, high, after=True)
            conflicts.append(Conflict(begin, stop, now[begin:stop], theirs, patch.edits))
        else:
            made.append(Patch(start, end, patch.text, patch.edits))
    return Rebased(made, conflicts, tuple(already))


class Places:
    """Where places of a text are in what has become of it."""

    def __init__(self, old: str, new: str) -> None:
        self._own = changes(old, new)

    def now(self, place: int) -> int:
        """A place in the text as it is now."""
        return _shift(self._own, place)


def _only_beside(touching: list[Patch], patch: Patch) -> bool:
    """Whether changes lie next to each other without having anything in common: both take words away or change them, side by side."""
    return all(
        (one.end == patch.start or one.start == patch.end) and one.start != one.end and patch.start != patch.end
        for one in touching
    )


def _carried(own: list[Patch], place: int, touching: list[Patch]) -> int:
    return _shift(own, place, after=any(one.end == place and one.start < place for one in touching))


def _shift(own: list[Patch], place: int, after: bool = False) -> int:
    """Where a place of the old text is in the new one; what was put in just there stands before it only if it is `after`."""
    moved = place
    for one in own:
        if one.end < place or (one.end == place and (one.start < place or after)):
            moved += len(one.text) - (one.end - one.start)
    return moved
