"""Which part of one pressing is which of another: by labels, by what marks ask for, by the words around."""

from __future__ import annotations

import re
from collections.abc import Callable, Hashable, Sequence
from difflib import SequenceMatcher

from wornpage.showing.parts import Part, Words, asked

NUMBER = re.compile(r"[-−]?\d[\d,.\u00a0\u202f']*\d|[-−]?\d")
"""A number as it is printed."""
_ALIKE = 0.5
"""Share of words from which on two texts are one that was changed."""
_WINDOW = 40
"""Parts of a stretch that one is held against: looking at all of them would take hours in a long one."""
Pair = tuple[Part | None, Part | None]


def aligned(before: Sequence[Part], after: Sequence[Part]) -> list[Pair]:
    """Each part with what it was, in the order of the page now; what has gone stands behind what it stood behind."""
    labelled = {key: part for part in before if (key := _label(part))}
    kept = {key for part in after if (key := _label(part)) and key in labelled}
    first = [part for part in before if _label(part) not in kept]
    second = [part for part in after if _label(part) not in kept]
    partners = {id(now): was for was, now in _matched(first, second) if now is not None}
    partners |= {id(part): labelled[_label(part)] for part in after if _label(part) in kept}
    pairs: list[Pair] = [(partners.get(id(part)), part) for part in after]
    found = {id(was) for was, _ in pairs if was is not None}
    for at, part in enumerate(before):
        if id(part) not in found:
            previous = next((one for one in reversed(before[:at]) if id(one) in found), None)
            place = (
                next((k + 1 for k, (was, _) in enumerate(pairs) if was is previous), 0) if previous is not None else 0
            )
            pairs.insert(place, (part, None))
            found.add(id(part))
    return pairs


def _label(part: Part) -> str:
    return "" if isinstance(part, Words) or not part.label else f"{type(part).__name__} {part.label}"


def _matched(first: list[Part], second: list[Part]) -> list[Pair]:
    """Pairs of what is the same but for its values, then of what is alike between them."""
    pairs: list[Pair] = []
    for was, now in _runs(first, second, template):
        if len(was) == len(now) and all(template(a) == template(b) for a, b in zip(was, now, strict=True)):
            pairs += zip(was, now, strict=True)
        else:
            pairs += _alike(was, now)
    return pairs


def _runs(
    first: list[Part], second: list[Part], key: Callable[[Part], Hashable]
) -> list[tuple[list[Part], list[Part]]]:
    """Stretches that are the same, and those between them."""
    matcher = SequenceMatcher(None, [key(part) for part in first], [key(part) for part in second], autojunk=False)
    return [(first[a:b], second[c:d]) for _, a, b, c, d in matcher.get_opcodes()]


def template(part: Part) -> Hashable:
    """What a part is but for its values and its numbers."""
    if not isinstance(part, Words):
        return type(part).__name__, NUMBER.sub("0", part.caption), part.chunk
    return part.kind, tuple(NUMBER.sub("0", one) for one in part.between), tuple(map(asked, part.values))


def _alike(was: list[Part], now: list[Part]) -> list[Pair]:
    """In a stretch that differs: each part with the one most like it, none crossing another."""
    pairs: list[Pair] = []
    at = 0
    for part in now:
        best, place = 0.0, -1
        for k in range(at, min(len(was), at + _WINDOW)):
            score = likeness(was[k], part)
            if score > best:
                best, place = score, k
        if best >= _ALIKE:
            pairs += [(one, None) for one in was[at:place]]
            pairs.append((was[place], part))
            at = place + 1
        else:
            pairs.append((None, part))
    return pairs + [(one, None) for one in was[at:]]


def likeness(one: Part, other: Part) -> float:
    """How much two parts have in common, from 0 to 1."""
    if type(one) is not type(other):
        return 0.0
    if isinstance(one, Words) and isinstance(other, Words):
        if one.kind != other.kind:
            return 0.0
        return SequenceMatcher(None, one.text.split(), other.text.split(), autojunk=False).ratio()
    assert not isinstance(one, Words) and not isinstance(other, Words)
    return max(
        0.6 * (one.chunk == other.chunk and bool(one.chunk)),
        SequenceMatcher(None, one.caption, other.caption).ratio() if one.caption else 0.0,
    )
