"""Collating: documents that came back, the page as it is now, and what becomes of both."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable
from pathlib import Path
from typing import Literal

from msgspec import Struct, field
from msgspec.structs import replace

from wornpage.collate.letters import Document
from wornpage.collate.merging import merge
from wornpage.collate.parts import open_parts
from wornpage.collate.proving import unsaid
from wornpage.collate.reading import read
from wornpage.collate.rebasing import Conflict, Places, Rebased, rebase
from wornpage.collate.record import record_in, record_of
from wornpage.collate.report import Edit, Patch, Remark, applied
from wornpage.collate.versions import Version, carried, with_versions
from wornpage.collate.work import Merged
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
    undecided: list[Version] = []
    for number in range(len(asked.documents)):
        undecided = _one(asked, number, made, chooses, undecided)
    made.text = with_versions(made.text, undecided)
    return made


def _one(asked: Asked, number: int, made: Collated, choose: Choose, undecided: list[Version]) -> list[Version]:
    """One document, after those before it; what nobody has decided so far."""
    path = asked.documents[number]
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
    rebased = rebase(record.source, made.text, merged.patches, _places_of(merged))
    _tell_places(merged, made.before)
    patches, conflicts = _decided(rebased, merged.edits, choose)
    who = asked.only or ", ".join(document.authors) or path.stem
    versions = [Version(one.start, one.end, one.theirs, who, number) for one in conflicts]
    made.text, undecided = applied(made.text, patches), carried([*undecided, *versions], patches)
    made.doubts += unsaid(record, merged, document)
    made.edits += merged.edits
    made.remarks += merged.remarks
    return undecided


def _places_of(merged: Merged) -> list[int]:
    """Where in the source that went out each edit is."""
    starts = line_starts(merged.source)
    return [starts[edit.line - 1] + edit.column - 1 for edit in merged.edits]


def _decided(rebased: Rebased, edits: list[Edit], choose: Choose) -> tuple[list[Patch], list[Conflict]]:
    """The changes to be made, with those that the reviewer is to have where both changed the same words; and the conflicts left.

    What belongs together, such as something moved, is decided once.
    """
    patches, left = list(rebased.patches), []
    chosen: dict[tuple[int, ...], Prefer] = {}
    for conflict in rebased.conflicts:
        if conflict.edits not in chosen:
            chosen[conflict.edits] = choose(conflict)
        who = chosen[conflict.edits]
        for number in conflict.edits:
            edits[number].outcome = "merged" if who == "reviewer" else "conflict"
            edits[number].source = conflict.ours
            edits[number].why = "" if who == "reviewer" else "the page has other words there by now"
        if who == "reviewer":
            patches.append(Patch(conflict.start, conflict.end, conflict.theirs))
        elif not who:
            left.append(conflict)
    return patches, left


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
