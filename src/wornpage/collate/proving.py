"""The proof: the merged source, read anew with what its marks showed, says what the document says, in its order; but for what was reported."""

from __future__ import annotations

from collections import Counter

from wornpage.collate.blocks import short
from wornpage.collate.checking import FLOW
from wornpage.collate.letters import FORMULA, NOTE, PICTURE, Document, Paragraph
from wornpage.collate.mapping import own_letters
from wornpage.collate.particulars import filled, shown_values
from wornpage.collate.record import Record
from wornpage.collate.report import Edit
from wornpage.collate.wording import rising, words
from wornpage.collate.work import Merged
from wornpage.source.units import Source, Unit, units_of

_TEXT = {"p", "h", "li", "quote", "cell", "caption", "note", "term", "meaning", "title"}
_THINGS = {NOTE, FORMULA, PICTURE}


def unsaid(record: Record, merged: Merged, document: Document) -> list[str]:
    """Paragraphs of the document that the merged source has not, or not at that place, and that no edit tells of."""
    before = merged.read
    shown = _Shown(record, before)
    own = {unit.key for unit in before.units}
    made = [(_key(_said(unit, shown)), unit) for unit in units_of(merged.result).units]
    there = Counter(key for key, _ in made)
    there.update(_key(_words(one)) for one in record.document.paragraphs if not own & set(one.keys))
    there.update(_key(text) for text in merged.told)
    values = shown_values(merged.result) if merged.heads else {}
    there.update(_key(filled(frame, values)) for frame in merged.heads)
    reported = [edit for edit in merged.edits if edit.outcome != "merged"]
    found = []
    cell, inside = (-1, -1, -1), ""
    for paragraph in document.paragraphs:
        place = (paragraph.table, paragraph.row, paragraph.column)
        if paragraph.table >= 0 and place == cell and _words(paragraph) in inside:
            continue  # one more paragraph of a cell, whose words have been taken together
        cell, inside = place, _words(paragraph)
        said = _key(inside) if paragraph.kind in _TEXT else ""
        if not said:
            continue
        known = next((one for one in _versions(said, reported) if not one or there[one] > 0), None)
        known = known if known is not None else _with_what_is_kept(said, reported, there)
        if known is not None:
            there[known] -= 1
        else:
            found.append(_in_short(paragraph))
    return found + _misplaced([(key, unit.kind) for key, unit in made], document, reported)


def _misplaced(made: list[tuple[str, str]], document: Document, reported: list[Edit]) -> list[str]:
    """Paragraphs that stand in another order than in the document, though nobody tells of it; of those that are there once."""
    often = Counter(key for key, _ in made)
    places = {key: at for at, (key, kind) in enumerate(made) if key and often[key] == 1 and kind in FLOW}
    told = [_key(edit.old) for edit in reported if edit.what.endswith("moved")]
    pairs: list[tuple[int, int]] = []
    paragraphs: list[Paragraph] = []
    for paragraph in document.paragraphs:
        said = _key(_words(paragraph)) if paragraph.kind in FLOW else ""
        if said in places and not any(one and said.startswith(one) for one in told):
            pairs.append((len(pairs), places[said]))
            paragraphs.append(paragraph)
    in_order = {at for at, _ in rising(pairs)}
    return [_in_short(one) for at, one in enumerate(paragraphs) if at not in in_order]


def _in_short(paragraph: Paragraph) -> str:
    return short(paragraph.text, 80)


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


def _with_what_is_kept(said: str, reported: list[Edit], there: Counter[str]) -> str | None:
    """The text that says what a paragraph does, and once what is told to have been taken out of it without another word."""
    kept = {_key(edit.old) for edit in reported if not _key(edit.new)} - {""}
    return next((key for key in there if there[key] > 0 and any(key.replace(one, "", 1) == said for one in kept)), None)


class _Shown:
    """What marks showed when the document went out, by how they are written; those written alike in their order."""

    def __init__(self, record: Record, source: Source) -> None:
        by_place: dict[str, str] = {}
        for paragraph in record.document.paragraphs:
            for letter in paragraph.letters:
                if letter.key:
                    by_place[letter.key] = by_place.get(letter.key, "") + letter.text
        self._by_raw: dict[str, list[str]] = {}
        for unit in source.units:
            for atom in unit.atoms:
                if atom.key:
                    self._by_raw.setdefault(atom.raw, []).append(by_place.get(atom.key, ""))
        self._seen = Counter[str]()

    def next(self, raw: str) -> str:
        """What the next mark that is written so shows."""
        known = self._by_raw.get(raw)
        if not known:
            return ""
        self._seen[raw] += 1
        return known[min(self._seen[raw], len(known)) - 1]


def _said(unit: Unit, shown: _Shown) -> str:
    """What a unit says, its marks as they showed when it went out."""
    return _plain("".join(shown.next(atom.raw) if atom.key else atom.text for atom in unit.atoms))


def _words(paragraph: Paragraph) -> str:
    """What a paragraph says, without what says which figure it is."""
    return _plain("".join(letter.text for letter in own_letters(paragraph)))


def _plain(text: str) -> str:
    return "".join(letter for letter in text if letter not in _THINGS)


def _key(text: str) -> str:
    return "".join(words(text))
