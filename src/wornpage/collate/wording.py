"""Which words of one text are those of another: what stands once in both first, the gaps between by likeness."""

from __future__ import annotations

import re
from bisect import bisect_left
from collections import Counter
from collections.abc import Sequence
from difflib import SequenceMatcher

_WORD = re.compile(r"\w+|\s|[^\w\s]")


def words(text: str) -> list[str]:
    """The words of a text, without what stands between them."""
    return re.findall(r"\w+", text)


def likeness(one: str, other: str) -> float:
    """How much of two texts is the same, from 0 to 1, counted in words."""
    first, second = words(one), words(other)
    if not first or not second:
        return 1.0 if one.strip() == other.strip() else 0.0
    shared = sum((Counter(first) & Counter(second)).values())
    if shared * 2 < 0.2 * (len(first) + len(second)):
        return 0.0
    return SequenceMatcher(None, first, second, autojunk=False).ratio()


def pieces(text: str) -> list[tuple[int, int]]:
    """Where each word, blank and sign of a text begins and ends."""
    return [(found.start(), found.end()) for found in _WORD.finditer(text)]


def rising(pairs: Sequence[tuple[int, int]]) -> list[tuple[int, int]]:
    """The longest row of pairs, ordered by the first, whose second rises too."""
    tails: list[int] = []
    at: list[int] = []
    before: list[int] = [-1] * len(pairs)
    for place, (_, value) in enumerate(pairs):
        where = bisect_left(tails, value)
        if where == len(tails):
            tails.append(value)
            at.append(place)
        else:
            tails[where], at[where] = value, place
        before[place] = at[where - 1] if where else -1
    found = []
    place = at[-1] if at else -1
    while place >= 0:
        found.append(pairs[place])
        place = before[place]
    return found[::-1]


def same(one: Sequence[str], other: Sequence[str]) -> list[tuple[int, int]]:
    """Pairs of places that hold the same, rising in both."""
    return _same(one, other, 0, 0)


def _same(one: Sequence[str], other: Sequence[str], first: int, second: int) -> list[tuple[int, int]]:
    found: list[tuple[int, int]] = []
    begin, most = 0, min(len(one), len(other))
    while begin < most and one[begin] == other[begin]:
        found.append((first + begin, second + begin))
        begin += 1
    end = 0
    while end < most - begin and one[-1 - end] == other[-1 - end]:
        end += 1
    tail = [(first + len(one) - end + at, second + len(other) - end + at) for at in range(end)]
    left, right = one[begin : len(one) - end], other[begin : len(other) - end]
    if left and right:
        found += _between(left, right, first + begin, second + begin)
    return found + tail


def _between(left: Sequence[str], right: Sequence[str], first: int, second: int) -> list[tuple[int, int]]:
    """The same where both ends differ: what stands once in both parts them, words before blanks and signs."""
    here, there = Counter(left), Counter(right)
    places = {what: at for at, what in enumerate(right) if there[what] == 1}
    single = [(at, places[what]) for at, what in enumerate(left) if here[what] == 1 and what in places]
    once = rising([pair for pair in single if words(left[pair[0]])]) or rising(single)
    if not once:
        blocks = SequenceMatcher(None, left, right, autojunk=False).get_matching_blocks()
        return [(first + block.a + at, second + block.b + at) for block in blocks for at in range(block.size)]
    found: list[tuple[int, int]] = []
    above, before = 0, 0
    for at, other in [*once, (len(left), len(right))]:
        found += _same(left[above:at], right[before:other], first + above, second + before)
        if at < len(left):
            found.append((first + at, second + other))
        above, before = at + 1, other + 1
    return found


def same_letters(one: str, other: str) -> list[tuple[int, int]]:
    """Pairs of letters of two texts that are the same, found by whole words; within words that have changed only at their ends."""
    first, second = pieces(one), pieces(other)
    matched = same([one[a:b] for a, b in first], [other[a:b] for a, b in second])
    found: list[tuple[int, int]] = []
    above, before = 0, 0
    for at, to in [*matched, (len(first), len(second))]:
        found += _within(one, other, first[above:at], second[before:to])
        if at < len(first):
            (a, b), (c, _) = first[at], second[to]
            found += [(a + step, c + step) for step in range(b - a)]
        above, before = at + 1, to + 1
    return found


def _within(one: str, other: str, left: list[tuple[int, int]], right: list[tuple[int, int]]) -> list[tuple[int, int]]:
    """Of one word that has become another: what both begin and end with, where that is most of it."""
    if len(left) != 1 or len(right) != 1:
        return []
    (a, b), (c, d) = left[0], right[0]
    old, new = one[a:b], other[c:d]
    begin = 0
    while begin < min(len(old), len(new)) and old[begin] == new[begin]:
        begin += 1
    end = 0
    while end < min(len(old), len(new)) - begin and old[-1 - end] == new[-1 - end]:
        end += 1
    if begin + end < 0.6 * max(len(old), len(new)):
        return []
    return [(a + at, c + at) for at in range(begin)] + [(b - end + at, d - end + at) for at in range(end)]
