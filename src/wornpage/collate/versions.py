"""Versions of the same words between which nobody has chosen: all of them stand in the page, line by line."""

from __future__ import annotations

from collections.abc import Iterable

from msgspec import Struct
from msgspec.structs import replace

from wornpage.collate.report import Patch, applied
from wornpage.source.conflicts import BETWEEN, OURS, THEIRS


class Version(Struct, frozen=True):
    """What a reviewer would have in the place of some words."""

    start: int
    end: int
    words: str
    who: str
    document: int = 0
    """Which of the documents it is from; what one says in a line belongs together."""


def carried(versions: Iterable[Version], patches: list[Patch]) -> list[Version]:
    """Versions for a text after changes; one that a change lies across is for all that the change made."""
    return [replace(one, start=_moved(patches, one.start, 0), end=_moved(patches, one.end, 1)) for one in versions]


def _moved(patches: list[Patch], place: int, is_end: int) -> int:
    """A place after changes: one within a change goes to where that begins or ends."""
    moved = place
    for one in patches:
        if one.end <= place:
            moved += len(one.text) - (one.end - one.start)
        elif one.start < place:
            moved += (one.start - place) + is_end * len(one.text)
    return moved


def with_versions(text: str, versions: Iterable[Version]) -> str:
    """A text with all versions of the lines that some are for, each reviewer's in full."""
    for group in reversed(_by_lines(text, sorted(versions, key=lambda one: (one.start, one.end)))):
        begin = text.rfind("\n", 0, group[0].start) + 1
        end = text.find("\n", max(one.end for one in group))
        end = len(text) if end < 0 else end
        lines = text[begin:end]
        known = {lines: ""}
        for each in sorted({one.document for one in group}):
            own = [one for one in group if one.document == each]
            made = applied(lines, [Patch(one.start - begin, one.end - begin, one.words) for one in own])
            known[made] = f"{known[made]}, {own[0].who}" if known.get(made) else own[0].who
        names = "; ".join(name for name in known.values() if name)
        every = f"\n{BETWEEN}\n".join(known)
        text = f"{text[:begin]}{OURS}\n{every}\n{THEIRS}{names}{text[end:]}"
    return text


def _by_lines(text: str, versions: list[Version]) -> list[list[Version]]:
    """Those that share a line, together."""
    groups: list[list[Version]] = []
    for one in versions:
        end = max((each.end for each in groups[-1]), default=0) if groups else -1
        if groups and (one.start <= end or "\n" not in text[end : one.start]):
            groups[-1].append(one)
        else:
            groups.append([one])
    return groups
