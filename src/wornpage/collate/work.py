"""What all merging works with: the source in units, what has come of it so far, and trying changes out."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from msgspec import Struct, field
from msgspec.structs import replace

from wornpage.collate.aligning import Piece
from wornpage.collate.blocks import without_digits
from wornpage.collate.checking import Checker, Reading
from wornpage.collate.items import Kept, compare
from wornpage.collate.letters import BREAK, By, Paragraph
from wornpage.collate.mapping import Mapped, own_letters
from wornpage.collate.particulars import Frame
from wornpage.collate.reading import LABEL
from wornpage.collate.report import Edit, Patch, Remark, applied
from wornpage.collate.spelling import LEVELS
from wornpage.source.units import Source, Unit

MADE = "is made when the page is pressed, and not written in it"
"""Why something is not merged."""
UNWRITTEN = "it could not be written so that it reads as it does there"
"""The same, of what none of several ways to write it could say."""


class Merged(Struct):
    """What a document's changes come to."""

    source: str
    """The source that went out."""
    read: Source
    """The same, in units."""
    patches: list[Patch] = field(default_factory=list)
    edits: list[Edit] = field(default_factory=list)
    remarks: list[Remark] = field(default_factory=list)
    told: list[str] = field(default_factory=list)
    """What paragraphs say that could not be brought in, and are told of as a whole."""
    heads: list[Frame] = field(default_factory=list)
    """Paragraphs of the head that say what values of the front matter say by now."""
    by_text_alone: bool = False
    """Whether the document has lost our bookmarks."""

    @property
    def result(self) -> str:
        """The source that went out, with the changes."""
        return applied(self.source, self.patches)


class Old(Struct):
    """A piece that went out."""

    piece: Piece
    unit: Unit | None
    """What it was made of; None for what was made when the page was pressed."""
    mapped: Mapped | None


class Work:
    """The source that went out, and the changes that were made so far."""

    def __init__(self, source: Source, by_text_alone: bool) -> None:
        self.source, self.text, self.units = source, source.text, source.units
        self.checker = Checker(source)
        self.made = Merged(source.text, source, by_text_alone=by_text_alone)
        self.taken_out: set[str] = set()
        """Marks that are no longer there, as they are written."""
        self.commented: dict[str, int] = {}
        """By the number of a comment: where in the source it begins."""

    # --- what is told -------------------------------------------------------------------------

    def edit(self, what: str, at: int, old: str, new: str, by: By | None, why: str = "") -> int:
        """Note a change; its place in the list of all."""
        line, column = self.source.line_of(at)
        self.made.edits.append(Edit(what, line, column, old, new, "reported" if why else "merged", why, by))
        return len(self.made.edits) - 1

    def place_of(self, old: Old) -> int:
        """Where a piece is written, or what made it is."""
        if old.unit is not None:
            return old.unit.start
        for paragraph in old.piece.paragraphs:
            for key in paragraph.keys:
                line, _, column = key.partition("_")
                return min(
                    self.source.starts[min(int(line) - 1, len(self.source.starts) - 1)] + int(column) - 1,
                    len(self.text),
                )
        return 0

    def give_up(self, edits: list[int], why: str, said: Sequence[str]) -> None:
        """Report edits after all; `said` is what the paragraphs say that they are in."""
        for number in edits:
            self.made.edits[number].outcome, self.made.edits[number].why = "reported", why
        self.made.told += said

    # --- what is kept, and what is tried ------------------------------------------------------

    def kept(self, olds: list[Mapped], news: list[Paragraph]) -> tuple[Kept, list[int]]:
        """What paragraphs keep, and the edits in them, which count as merged until that is known to be wrong."""
        kept = compare(olds, [own_letters(paragraph) for paragraph in news])
        self._labels(olds, news)
        for comment, where in kept.places.items():
            self.commented.setdefault(comment, self._offset(olds, *where))
        edits = []
        for change in kept.changes:
            at = self._offset(olds, change.unit, change.atom)
            edits.append(self.edit(change.what, at, change.old, change.new, change.by))
        for touched in kept.touched:
            atom = olds[touched.unit].unit.atoms[touched.atom]
            self.edit("mark", atom.start, touched.old, touched.new.replace(BREAK, " "), touched.by, atom.raw)
        for change in kept.foreign:
            at = self._offset(olds, change.unit, change.atom)
            self.edit(
                change.what,
                at,
                change.old,
                change.new,
                change.by,
                "pages have nothing for it, or it is to be written by hand",
            )
        for unit, number in kept.gone:
            atom = olds[unit].unit.atoms[number]
            self.taken_out.add(atom.raw)
            edits.append(self.edit("mark taken out", atom.start, atom.raw, "", None))
        return kept, edits

    def _labels(self, olds: list[Mapped], news: list[Paragraph]) -> None:
        """What says which figure it is counts by itself: told where somebody has written into it."""
        before = "".join(letter.text for old in olds for letter in old.paragraph.letters if letter.key == LABEL)
        letters = [letter for new in news for letter in new.letters if letter.key == LABEL]
        after = "".join(letter.text for letter in letters)
        if without_digits(before) != without_digits(after) and (after or before):
            by = next((letter.by for letter in letters if letter.by), None)
            self.edit("label", olds[0].unit.start, before, after, by, "it counts by itself")

    def _offset(self, olds: list[Mapped], unit: int, atom: int) -> int:
        if not olds:
            return 0
        atoms = olds[unit].unit.atoms
        return atoms[min(atom, len(atoms) - 1)].start if atoms else olds[unit].unit.start

    def attempt(
        self, edits: list[int], patches: Callable[[int], list[Patch]], first: int, last: int, wanted: Sequence[Reading],
        said: Sequence[str] = (),
    ) -> bool:  # fmt: skip
        """Make the first of several ways to write something that reads as it should; all edits are reported if none does."""
        if self.makes(edits, patches, first, last, wanted):
            return True
        self.give_up(edits, UNWRITTEN, said)
        return False

    def makes(
        self, edits: list[int], patches: Callable[[int], list[Patch]], first: int, last: int, wanted: Sequence[Reading]
    ) -> bool:
        """The same; nothing is told if none does."""
        for level in LEVELS:
            tried = [replace(one, edits=tuple(edits)) for one in patches(level)]
            if self._is_free(tried) and self.checker.holds(tried, first, last, wanted):
                self.made.patches += tried
                return True
        return False

    def _is_free(self, patches: list[Patch]) -> bool:
        """Whether no other change lies in the same stretch."""
        return not any(
            one.start < other.end and other.start < one.end for one in patches for other in self.made.patches
        )

    def at(self, unit: Unit) -> int:
        """The place of a unit among all."""
        return self.checker.places[id(unit)]
