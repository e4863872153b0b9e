"""Styles that overlap, as Markdown can write them: each within another or beside it, none beginning or ending on a blank."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from itertools import takewhile

from msgspec import Struct

from wornpage.collate.items import Item
from wornpage.source.units import Style


class Stretch(Struct):
    """A style around some items."""

    style: Style
    size: int = 0
    """Of how many atoms of the source; 0 for a new one."""

    @property
    def is_link(self) -> bool:
        """Whether it is a link: its words are in one piece, whatever else lies over its ends."""
        return self.style.look.startswith("link:")

    @property
    def is_code(self) -> bool:
        """Whether it is code, which nothing can stand within."""
        return self.style.look == "code"


Stack = tuple[int, ...]
"""The styles around an item, outermost first, by their numbers."""


def nested(items: Sequence[Item], known: Mapping[int, Stretch]) -> list[Stack]:
    """Which styles are open at each item; what would begin or end on a blank is taken from it (`Item.styles`)."""
    while True:
        stacks = _stacks(items, known)
        pieces = runs(stacks)
        often = Counter(one for one, _ in pieces)
        blank = [
            (at, one)
            for one, run in pieces
            if not (known[one].is_code and known[one].size and often[one] == 1)
            for at in _blank_ends(items, run)
        ]
        if not blank:
            return stacks
        for at, one in blank:
            items[at].styles = tuple(each for each in items[at].styles if each != one)


def _stacks(items: Sequence[Item], known: Mapping[int, Stretch]) -> list[Stack]:
    """Longer styles stand outside; of two that overlap the second is parted at the end of the first, a link never."""
    made: list[Stack] = []
    stack: Stack = ()
    for item, ends in zip(items, _ends(items), strict=True):
        stack = tuple(takewhile(lambda one, here=item.styles: one in here, stack))  # type: ignore[misc]
        links = [ends[one] for one in item.styles if one not in stack and known[one].is_link]
        stack = tuple(takewhile(lambda one, ends=ends, links=links: ends[one] >= max(links, default=0), stack))  # type: ignore[misc]
        rest = [one for one in item.styles if one not in stack]
        if rest and stack and known[stack[-1]].is_code:  # nothing can begin within it
            stack, rest = stack[:-1], [*rest, stack[-1]]
        stack += tuple(sorted(rest, key=lambda one: (known[one].is_code, -ends[one], known[one].size == 0)))
        made.append(stack)
    return made


def _ends(items: Sequence[Item]) -> list[dict[int, int]]:
    """For each item: how far each of its styles goes on without a gap."""
    made: list[dict[int, int]] = []
    after: dict[int, int] = {}
    for at in range(len(items) - 1, -1, -1):
        after = {one: after.get(one, at + 1) for one in items[at].styles}
        made.append(after)
    return made[::-1]


def runs(stacks: Sequence[Stack]) -> list[tuple[int, range]]:
    """Each style from where it is opened to where it is closed."""
    made: list[tuple[int, range]] = []
    open_at: list[tuple[int, int]] = []
    for at, stack in enumerate([*stacks, ()]):
        shared = common(tuple(one for one, _ in open_at), stack)
        made += [(one, range(begin, at)) for one, begin in open_at[shared:]]
        open_at = [*open_at[:shared], *((one, at) for one in stack[shared:])]
    return made


def common(one: Stack, other: Stack) -> int:
    """How many styles two stacks have in common, from outside."""
    return len(list(takewhile(lambda pair: pair[0] == pair[1], zip(one, other, strict=False))))


def _blank_ends(items: Sequence[Item], run: range) -> list[int]:
    """The blanks that a run of items begins and ends on."""
    made: set[int] = set()
    for order in (run, reversed(run)):
        made |= set(takewhile(lambda at: not items[at].text or items[at].text.isspace(), order))
    return sorted(made)
