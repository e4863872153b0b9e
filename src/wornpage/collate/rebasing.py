"""Carrying changes over to a source that has been changed meanwhile: word by word; what both have changed is a conflict."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence

from msgspec import Struct

from wornpage.collate.report import Patch, applied
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


def narrowed(text: str, patches: Iterable[Patch], places: Sequence[int] = ()) -> list[Patch]:
    """Patches that change no more than the words that differ; `places` says where in the text each edit is."""
    found: list[Patch] = []
    for patch in patches:
        if not patch.text or patch.start == patch.end:
            found.append(patch)
            continue
        for one in _changed_words(text[patch.start : patch.end], patch.text, patch.start):
            found.append(Patch(one.start, one.end, one.text, _edits_in(one, patch.edits, places), patch.order))
    return found


def _edits_in(patch: Patch, edits: tuple[int, ...], places: Sequence[int]) -> tuple[int, ...]:
    """Those edits that begin in a patch, or the last one before it."""
    if not places:
        return edits
    inside = tuple(edit for edit in edits if patch.start <= places[edit] <= patch.end)
    before = [edit for edit in edits if places[edit] < patch.start]
    return inside or ((max(before, key=places.__getitem__),) if before else edits)


class _Clash(Struct):
    """Changes of both that cannot be told apart."""

    own: list[Patch]
    patches: list[Patch]

    @property
    def start(self) -> int:
        """Where the first of them begins, in what both began with."""
        return min(one.start for one in (*self.own, *self.patches))

    @property
    def end(self) -> int:
        """Where the last of them ends."""
        return max(one.end for one in (*self.own, *self.patches))


def rebase(base: str, now: str, patches: Sequence[Patch], places: Sequence[int] = ()) -> Rebased:
    """Changes of `base` as changes of `now`; `places` says where in `base` each edit is.

    Several patches with the same edits are one thing, such as something moved: they hold together, or none does.
    """
    own = changes(base, now)
    small = sorted(narrowed(base, patches, places), key=lambda one: (one.start, one.end, one.order))
    touched = [[one for one in own if one.start <= patch.end and one.end >= patch.start] for patch in small]
    common = [any(_is_same(one, patch) for one in near) for patch, near in zip(small, touched, strict=True)]
    clashing = [
        not is_common and not _only_beside(near, patch)
        for patch, near, is_common in zip(small, touched, common, strict=True)
    ]
    whole = {edits for edits, many in Counter(patch.edits for patch in patches if patch.edits).items() if many > 1}
    torn = {patch.edits for patch, clashes in zip(small, clashing, strict=True) if clashes} & whole
    made: list[Patch] = []
    groups: list[_Clash] = []
    for patch, near, is_common, clashes in zip(small, touched, common, clashing, strict=True):
        if clashes or (patch.edits in torn and not is_common):
            _join(groups, patch, near)
        elif not is_common:
            start, end = _carried(own, patch.start, near), _carried(own, patch.end, near)
            made.append(Patch(start, end, patch.text, patch.edits, patch.order))
    settled = [patch for patch, is_common in zip(small, common, strict=True) if is_common]
    return Rebased(made, [_conflict(base, now, own, group, settled) for group in groups])


def _is_same(one: Patch, other: Patch) -> bool:
    return (one.start, one.end, one.text) == (other.start, other.end, other.text)


def _join(groups: list[_Clash], patch: Patch, near: list[Patch]) -> None:
    """Put a change with those that the same change of the page lies across."""
    if groups and any(one in groups[-1].own for one in near):
        groups[-1].patches.append(patch)
        groups[-1].own += [one for one in near if one not in groups[-1].own]
    else:
        groups.append(_Clash(list(near), [patch]))


def _conflict(base: str, now: str, own: list[Patch], clash: _Clash, settled: list[Patch]) -> Conflict:
    """What both made of one stretch; what both did alike is part of either."""
    low, high = clash.start, clash.end
    alike = [one for one in settled if any(_is_same(one, other) for other in clash.own)]
    inside = [Patch(one.start - low, one.end - low, one.text, (), one.order) for one in (*clash.patches, *alike)]
    begin, stop = _shift(own, low), _shift(own, high, after=True)
    edits = tuple(sorted({edit for patch in clash.patches for edit in patch.edits}))
    return Conflict(begin, stop, now[begin:stop], applied(base[low:high], inside), edits)


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
