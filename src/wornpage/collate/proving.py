"""The proof: the merged source, read anew with what its marks showed, says what the document says; but for what was reported."""

from __future__ import annotations

from collections import Counter

from wornpage.collate.letters import FORMULA, NOTE, PICTURE, Document, Paragraph
from wornpage.collate.mapping import own_letters
from wornpage.collate.record import Record
from wornpage.collate.report import Edit
from wornpage.collate.wording import words
from wornpage.collate.work import Merged
from wornpage.source.units import Source, Unit, units_of

_TEXT = {"p", "h", "li", "quote", "cell", "caption", "note", "term", "meaning"}
_THINGS = {NOTE, FORMULA, PICTURE}


def unsaid(record: Record, merged: Merged, document: Document) -> list[str]:
    """Paragraphs of the document that the merged source has not, and that no edit tells of."""
    before = merged.read
    shown = _shown(record, before)
    own = {unit.key for unit in before.units}
    there = Counter(_key(_said(unit, shown)) for unit in units_of(merged.result).units)
    there.update(_key(_words(one)) for one in record.document.paragraphs if not own & set(one.keys))
    there.update(_key(text) for text in merged.told)
    reported = [edit for edit in merged.edits if edit.outcome != "merged"]
    found = []
    for paragraph in document.paragraphs:
        said = (
            _key(_plain("".join(letter.text for letter in own_letters(paragraph)))) if paragraph.kind in _TEXT else ""
        )
        if not said:
            continue
        known = next((one for one in _versions(said, reported) if there[one] > 0), None)
        if known is not None:
            there[known] -= 1
        else:
            found.append(" ".join(paragraph.text.split())[:80])
    return found


def _versions(said: str, reported: list[Edit]) -> list[str]:
    """What a paragraph says, and what it said before some or all of the edits that were not merged."""
    found, whole = [said], said
    for edit in reported:
        new, old = _key(edit.new), _key(edit.old)
        if new and new in said:
            found.append(said.replace(new, old, 1))
            whole = whole.replace(new, old, 1)
        if new and said.startswith(new.rstrip("…")):
            found.append(said if old else "")
    return [*found, whole]


def _shown(record: Record, source: Source) -> dict[str, str]:
    """What each mark showed, by how it is written."""
    by_place: dict[str, str] = {}
    for paragraph in record.document.paragraphs:
        for letter in paragraph.letters:
            if letter.key:
                by_place[letter.key] = by_place.get(letter.key, "") + letter.text
    return {atom.raw: by_place.get(atom.key, "") for unit in source.units for atom in unit.atoms if atom.key}


def _said(unit: Unit, shown: dict[str, str]) -> str:
    """What a unit says, its marks as they showed when it went out."""
    return _plain("".join(shown.get(atom.raw, "") if atom.key else atom.text for atom in unit.atoms))


def _words(paragraph: Paragraph) -> str:
    """What a paragraph says, without what says which figure it is."""
    return _plain("".join(letter.text for letter in own_letters(paragraph)))


def _plain(text: str) -> str:
    return "".join(letter for letter in text if letter not in _THINGS)


def _key(text: str) -> str:
    return "".join(words(text))
