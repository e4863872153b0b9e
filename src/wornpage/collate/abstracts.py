"""Paragraphs of an abstract, which are written in the front matter: as text under a key, one below the other."""

from __future__ import annotations

from collections.abc import Sequence

from wornpage.collate.report import Patch
from wornpage.source.units import Unit

KIND = "abstract"
GAPS = ("\n\n", "\n\n\n")
"""What parts paragraphs: in text that is kept line by line, and in text whose lines are folded."""


def of(units: Sequence[Unit]) -> list[Unit]:
    """The paragraphs of the abstract."""
    return [unit for unit in units if unit.kind == KIND]


def added(text: str, units: Sequence[Unit], before: Unit | None, made: Sequence[str], gap: str) -> Patch:
    """New paragraphs behind one, or before the first."""
    near = before if before is not None else of(units)[0]
    lead = text[text.rfind("\n", 0, near.start) + 1 : near.start]
    indent = lead if not lead.strip() else "  "
    lines = [one.replace("\n", "\n" + indent) for one in made]
    if before is None:
        return Patch(near.start, near.start, "".join(one + gap + indent for one in lines))
    return Patch(near.end, near.end, "".join(gap + indent + one for one in lines))


def without(units: Sequence[Unit], first: Unit, last: Unit) -> Patch:
    """Some paragraphs taken out, with what parts them from one that stays."""
    own = of(units)
    begin, end = own.index(first), own.index(last) + 1
    start = own[begin - 1].end if begin else first.start
    stop = own[end].start if not begin and end < len(own) else last.end
    return Patch(start, stop, "")
