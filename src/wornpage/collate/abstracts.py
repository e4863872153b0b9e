"""Paragraphs of an abstract, which are written in the front matter: as text under a key, one below the other."""

from __future__ import annotations

from collections.abc import Sequence

from wornpage.collate.report import Patch
from wornpage.source.units import Unit

KIND = "abstract"
GAPS = ("\n\n", "\n\n\n")
"""What parts paragraphs: in text that is kept line by line, and in text whose lines are folded."""


def added(text: str, before: Unit, made: Sequence[str], gap: str, order: int) -> Patch:
    """New paragraphs behind one."""
    lead = text[text.rfind("\n", 0, before.start) + 1 : before.start]
    indent = lead if not lead.strip() else "  "
    lines = (gap + indent + one.replace("\n", "\n" + indent) for one in made)
    return Patch(before.end, before.end, "".join(lines), order=order)


def without(units: Sequence[Unit], first: Unit, last: Unit) -> Patch:
    """Some paragraphs taken out, with what parts them from one that stays."""
    own = [unit for unit in units if unit.kind == KIND]
    begin, end = own.index(first), own.index(last) + 1
    start = own[begin - 1].end if begin else first.start
    stop = own[end].start if not begin and end < len(own) else last.end
    return Patch(start, stop, "")
