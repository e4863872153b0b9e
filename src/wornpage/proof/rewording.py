"""Words that were changed in a few blocks of a page, shown before the page as a whole is put together anew.

Only what is certain: a block reads as before but for the letters of its running text, and these letters stand in its HTML
just as often as they are written. All else waits for the whole page, which comes in any case and has the last word.
"""

from __future__ import annotations

from bisect import bisect_right
from pathlib import PurePath

from msgspec import Struct
from msgspec.structs import fields, replace

from wornpage.output.html.writer import inlines_alone
from wornpage.proof.parts import Part, Parts, part_of
from wornpage.source import build
from wornpage.tree import nodes as n
from wornpage.tree.hosts import HOSTS
from wornpage.tree.language import Language
from wornpage.tree.span import Span

_Pairs = list[tuple[n.Text, n.Text]]
"""Each text of a block, as it was and as it is."""
_MOST = 20
"""Blocks that are looked at: more are no matter of a moment."""


class Shown(Struct, frozen=True):
    """A page as it is in the browser."""

    text: str
    """Its source."""
    parts: Parts
    language: Language


def reworded(shown: Shown, text: str, name: str) -> Shown | None:
    """What shows of the page `name` once its source is `text`; None where more was changed than words of a few blocks."""
    if PurePath(name).suffix.lower() in HOSTS:
        return None
    old, new = shown.text.split("\n"), text.split("\n")
    parts, more = list(shown.parts.parts), len(new) - len(old)
    blocks = _blocks(shown.parts, name, _changed(old, new), len(old))
    if blocks is None or not 0 < len(blocks) <= (1 if more else _MOST):
        return None
    for at, begins, ends in blocks:
        pairs = _pairs("\n".join(old[begins - 1 : ends - 1]), "\n".join(new[begins - 1 : ends - 1 + more]), name)
        html = _with(parts[at].html, pairs, shown.language)
        if html is None:
            return None
        parts = [_moved(part, more) if part.file == name and part.line >= ends else part for part in parts]
        parts[at] = part_of(html, name, begins)
    return Shown(text, replace(shown.parts, parts=tuple(parts)), shown.language)


def _blocks(parts: Parts, name: str, lines: set[int], last: int) -> list[tuple[int, int, int]] | None:
    """The blocks that have these lines: the place of its part, its first line, and the first that is no longer its; None if it cannot be told."""
    places: dict[int, list[int]] = {}
    for at, part in enumerate(parts.parts):
        if part.file == name:
            places.setdefault(part.line, []).append(at)
    begins = [*sorted(places), last + 1]
    blocks = sorted({bisect_right(begins, line) - 1 for line in lines})
    found = [(places[begins[block]], begins[block], begins[block + 1]) for block in blocks if 0 <= block < len(places)]
    if len(found) < len(blocks) or any(len(mine) > 1 for mine, _, _ in found):
        return None
    return [(mine[0], first, ends) for mine, first, ends in found]


def _changed(old: list[str], new: list[str]) -> set[int]:
    """The lines of `old`, counted from 1, that are others in `new`; where there are more or fewer, the first and the last."""
    if len(old) == len(new):
        return {at for at, (one, other) in enumerate(zip(old, new, strict=True), 1) if one != other}
    most = min(len(old), len(new))
    above = next((at for at in range(most) if old[at] != new[at]), most)
    below = next((at for at in range(most - above) if old[-1 - at] != new[-1 - at]), most - above)
    return {above + 1, len(old) - below}


def _moved(part: Part, by: int) -> Part:
    return replace(part, line=part.line + by) if by else part


# --- what was written -----------------------------------------------------------------------------


def _pairs(old: str, new: str, name: str) -> _Pairs:
    """The texts of a block; none where more than its texts was changed."""
    was, now = build(old, name), build(new, name)
    pairs: _Pairs = []
    alike = len(was.problems) == len(now.problems) and _same(was.blocks, now.blocks, pairs)
    return pairs if alike else []


def _same(one: object, other: object, pairs: _Pairs) -> bool:
    """Whether two trees are the same but for the letters of their texts, which go into `pairs`."""
    if type(one) is not type(other):
        return False
    if isinstance(one, n.Text) and isinstance(other, n.Text):
        pairs.append((one, other))
        return True
    if isinstance(one, tuple) and isinstance(other, tuple):
        return len(one) == len(other) and all(_same(a, b, pairs) for a, b in zip(one, other, strict=True))
    if isinstance(one, Span):
        return True
    if isinstance(one, Struct):
        names = (field.name for field in fields(one) if not (isinstance(one, n.Heading) and field.name == "label"))
        return all(_same(getattr(one, name), getattr(other, name), pairs) for name in names)
    return one == other


# --- what is shown --------------------------------------------------------------------------------


def _with(html: str, pairs: _Pairs, language: Language) -> str | None:
    """The HTML of a block with its changed texts; None where none was, or it cannot be told which letters are theirs."""
    written = [inlines_alone((one,), language) for one, _ in pairs]
    places: list[tuple[int, int, str]] = []
    for at, (one, other) in enumerate(pairs):
        if one.text == other.text:
            continue
        letters = written[at]
        if not letters or html.count(letters) != sum(text.count(letters) for text in written):
            return None
        before = sum(text.count(letters) for text in written[:at])
        place = len(letters.join(html.split(letters, before + 1)[: before + 1]))
        places.append((place, place + len(letters), inlines_alone((other,), language)))
    for begins, ends, text in reversed(places):
        html = html[:begins] + text + html[ends:]
    return html if places else None
