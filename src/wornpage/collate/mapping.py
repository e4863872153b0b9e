"""Which letters of what went out are which letters of the source."""

from __future__ import annotations

from msgspec import Struct

from wornpage.collate.letters import PICTURE, Letter, Paragraph
from wornpage.collate.reading import LABEL
from wornpage.source.units import Atom, Unit


class Mapped(Struct):
    """A paragraph that went out, with the unit it was made of."""

    paragraph: Paragraph
    unit: Unit
    letters: list[Letter]
    """Those of its words: without what says which figure it is."""
    atoms: list[int]
    """For each letter: the atom it was made of."""
    shown: dict[int, str]
    """What each object shows."""
    seen: frozenset[int] = frozenset()
    """Atoms that have become letters."""


def mapped(paragraph: Paragraph, unit: Unit) -> Mapped | None:
    """The letters of a paragraph as atoms of a unit; None where they are not the same."""
    letters = own_letters(paragraph)
    atoms: list[int] = []
    shown: dict[int, str] = {}
    at = 0
    for place, atom in enumerate(unit.atoms):
        taken = _taken(atom, letters, at)
        if taken < 0:
            return None
        if atom.key:
            shown[place] = "".join(letter.text for letter in letters[at : at + taken])
        atoms += [place] * taken
        at += taken
    return Mapped(paragraph, unit, letters, atoms, shown, frozenset(atoms)) if at == len(letters) else None


def own_letters(paragraph: Paragraph) -> list[Letter]:
    """The letters of a paragraph without those that say which figure it is, and without blanks at its ends."""
    letters = [letter for letter in paragraph.letters if letter.key != LABEL]
    first, last = 0, len(letters)
    while first < last and letters[first].text.isspace():
        first += 1
    while last > first and letters[last - 1].text.isspace():
        last -= 1
    return letters[first:last]


def _taken(atom: Atom, letters: list[Letter], at: int) -> int:
    """How many letters an atom has become; -1 if it is none of them."""
    if atom.key:
        if atom.raw.startswith("!["):
            return int(at < len(letters) and letters[at].text == PICTURE) or -1
        count = 0
        while at + count < len(letters) and letters[at + count].key == atom.key:
            count += 1
        return count
    if not atom.text:
        is_break = atom.raw.lower().startswith("<br") and at < len(letters) and letters[at].text == "\n"
        return int(is_break)
    if at >= len(letters):
        return 0 if atom.text.isspace() else -1
    said = letters[at].text
    return 1 if said == atom.text or (said.isspace() and atom.text.isspace()) else -1
