"""Collating: documents that came back, the page as it is now, and what becomes of both."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable
from pathlib import Path
from typing import Literal

from msgspec import Struct, field
from msgspec.structs import replace

from wornpage.collate.checking import applied
from wornpage.collate.letters import Document
from wornpage.collate.merging import merge
from wornpage.collate.parts import open_parts
from wornpage.collate.proving import unsaid
from wornpage.collate.reading import read
from wornpage.collate.rebasing import Conflict, Places, Rebased, rebase
from wornpage.collate.record import Record, record_in, record_of
from wornpage.collate.report import Edit, Patch, Remark
from wornpage.collate.work import Merged
from wornpage.source.conflicts import BETWEEN, OURS, THEIRS
from wornpage.source.text import line_starts, read_text
from wornpage.tree.problem import UsageError

Prefer = Literal["", "source", "reviewer"]
Choose = Callable[[Conflict], Prefer]
"""Says who has it in a conflict; nothing leaves both versions in the page."""


class Asked(Struct, frozen=True):
    """What is to be collated, and how."""

    page: Path
    documents: tuple[Path, ...]
    only: str = ""
    """The changes of this author alone."""
    prefer: Prefer = ""
    """Who has it where both have changed the same words."""


class Collated(Struct):
    """What came of it."""

    text: str
    """The page with all that was merged."""
    before: str
    """The page as it is."""
    edits: list[Edit] = field(default_factory=list)
    remarks: list[Remark] = field(default_factory=list)
    notices: list[str] = field(default_factory=list)
    doubts: list[str] = field(default_factory=list)
    """What the merged page does not say as the documents do, and no edit tells of; there should be none."""

    def count(self, outcome: str) -> int:
        """How many edits came to this."""
        return sum(edit.outcome == outcome for edit in self.edits)


def collate(asked: Asked, choose: Choose | None = None) -> Collated:
    """Bring the changes of documents into the text of a page; `choose` says who has it in each conflict, `asked.prefer` otherwise.

    Raises `UsageError`, `PageError`; writes nothing.
    """
    chooses = choose or (lambda conflict: asked.prefer)
    now = read_text(asked.page, str(asked.page))
    made = Collated(now, now)
    for path in asked.documents:
        _one(asked, path, made, chooses)
    return made


def _one(asked: Asked, path: Path, made: Collated, choose: Choose) -> None:
    """One document, after those before it."""
    parts = open_parts(path)
    record = record_in(parts)
    if record is None:
        record = record_of(asked.page)
        made.notices.append(
            f"{path} has lost the source that it carried: it is held against what last went out of {asked.page}."
        )
    if record is None:
        hint = "It must come from `worn press --as docx`; a program that saved it may have left the page's source out."
        raise UsageError(f"{path} does not hold the source of a page. {hint}")
    if Path(record.page).name != asked.page.name:
        made.notices.append(f"{path} was made from {record.page}.")
    document = read(parts, (lambda author: author == asked.only) if asked.only else (lambda author: True))
    _check_author(asked, path, document)
    merged = merge(record, document)
    if merged.by_text_alone:
        made.notices.append(
            f"{path} has lost its marks in another program: its paragraphs were found by their text alone."
        )
    _tell_places(merged, made.before)
    rebased = rebase(record.source, made.text, merged.patches)
    who = asked.only or _authors_of(document) or path.stem
    made.text = _with_conflicts(rebased, made.text, merged.edits, choose, who)
    made.doubts += _doubts(record, merged, document)
    made.edits += merged.edits
    made.remarks += merged.remarks


def _tell_places(merged: Merged, now: str) -> None:
    """Let lines be those of the page as it is, whatever it was when the document went out."""
    if merged.source == now:
        return
    starts, others = line_starts(merged.source), line_starts(now)
    places = Places(merged.source, now)

    def moved(line: int, column: int) -> tuple[int, int]:
        place = places.now(starts[min(line, len(starts)) - 1] + column - 1)
        number = bisect_right(others, place)
        return number, place - others[number - 1] + 1

    for edit in merged.edits:
        edit.line, edit.column = moved(edit.line, edit.column)
    merged.remarks = [
        replace(remark, line=line, column=column)
        for remark in merged.remarks
        for line, column in [moved(remark.line, remark.column)]
    ]


def _check_author(asked: Asked, path: Path, document: Document) -> None:
    if asked.only and asked.only not in document.authors:
        known = ", ".join(document.authors) or "nobody: its changes are not tracked"
        raise UsageError(f"nothing in {path} is tracked as {asked.only!r}; there are: {known}.")


def _authors_of(document: Document) -> str:
    return ", ".join(document.authors)


def _with_conflicts(rebased: Rebased, text: str, edits: list[Edit], choose: Choose, who: str) -> str:
    """A text with its changes; where both have changed the same words, what is chosen, or both versions of the lines."""
    theirs: list[Patch] = []
    open_ones: list[Conflict] = []
    for conflict in rebased.conflicts:
        chosen = choose(conflict)
        for number in conflict.edits:
            edits[number].outcome = "merged" if chosen == "reviewer" else "conflict"
            edits[number].source = conflict.ours
            edits[number].why = "" if chosen == "reviewer" else "the page has other words there by now"
        if chosen == "reviewer":
            theirs.append(Patch(conflict.start, conflict.end, conflict.theirs))
        elif not chosen:
            open_ones.append(conflict)
    patches = [*rebased.patches, *theirs]
    merged = applied(text, patches)
    moved = [(_moved(patches, one.start), _moved(patches, one.end), one.theirs) for one in open_ones]
    for group in reversed(_by_lines(merged, moved)):
        begin = merged.rfind("\n", 0, group[0][0]) + 1
        end = merged.find("\n", group[-1][1])
        end = len(merged) if end < 0 else end
        other = merged[begin:end]
        for start, stop, words in reversed(group):
            other = other[: start - begin] + words + other[stop - begin :]
        both = f"{OURS}\n{merged[begin:end]}\n{BETWEEN}\n{other}\n{THEIRS}{who}"
        merged = merged[:begin] + both + merged[end:]
    return merged


def _moved(patches: list[Patch], place: int) -> int:
    return place + sum(len(one.text) - (one.end - one.start) for one in patches if one.end <= place)


def _by_lines(text: str, found: list[tuple[int, int, str]]) -> list[list[tuple[int, int, str]]]:
    """Conflicts that share a line, together."""
    groups: list[list[tuple[int, int, str]]] = []
    for one in sorted(found):
        if groups and "\n" not in text[groups[-1][-1][1] : one[0]]:
            groups[-1].append(one)
        else:
            groups.append([one])
    return groups


def _doubts(record: Record, merged: Merged, document: Document) -> list[str]:
    """Where the source that went out, with what was merged, does not read as the document does, though nothing tells of it."""
    return unsaid(record, merged, document)
