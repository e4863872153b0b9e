"""From a document that came back to changes of the source: each is made only if the source then reads as the document does."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence

from msgspec import Struct, field
from msgspec.structs import replace

from wornpage.collate.aligning import Piece, Ties, align, pieces_of
from wornpage.collate.checking import Checker, Reading, applied, kind_of, level_of, reading, reading_of
from wornpage.collate.items import Item, Kept, compare
from wornpage.collate.letters import BREAK, By, Comment, Document, Letter, Paragraph
from wornpage.collate.mapping import Mapped, mapped, own_letters
from wornpage.collate.reading import LABEL
from wornpage.collate.record import Record
from wornpage.collate.report import Edit, Patch, Remark
from wornpage.collate.spelling import LEVELS, written
from wornpage.collate.wording import rising
from wornpage.source.units import Source, Unit, units_of

_MADE = "is made when the page is pressed, and not written in it"
_TEXT = {"p", "h", "li", "quote", "cell", "caption", "note", "term", "meaning", "title"}


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
    by_text_alone: bool = False
    """Whether the document has lost our bookmarks."""

    @property
    def result(self) -> str:
        """The source that went out, with the changes."""
        return applied(self.source, self.patches)


def merge(record: Record, document: Document) -> Merged:
    """The changes between what went out and what came back."""
    return _Merger(record, document).merge()


class _Old(Struct):
    """A piece that went out."""

    piece: Piece
    unit: Unit | None
    """What it was made of; None for what was made when the page was pressed."""
    mapped: Mapped | None


class _Merger:
    """Goes through the groups of paragraphs that belong together."""

    def __init__(self, record: Record, document: Document) -> None:
        self.source: Source = units_of(record.source)
        self.text = record.source
        self.units = self.source.units
        self.checker = Checker(self.source)
        self.document = document
        by_key = {unit.key: unit for unit in self.units}
        self.cells = {unit.key: unit for unit in self.units if unit.kind == "cell"}
        self.old = [self._old(piece, by_key) for piece in pieces_of(record.document, keeps_empty=True)]
        if not document.has_marks:
            _find_labels(record.document, document)
        self.new = pieces_of(document, keeps_empty=False)
        self.made = Merged(record.source, self.source, by_text_alone=not document.has_marks)
        self.after: _Old | None = None
        self.commented: dict[str, int] = {}
        """By the number of a comment: where in the source it begins."""

    def _old(self, piece: Piece, by_key: dict[str, Unit]) -> _Old:
        paragraph = piece.paragraphs[0]
        unit = next((by_key[key] for key in paragraph.keys if key in by_key), None)
        if piece.is_table or unit is None:
            return _Old(piece, unit, None)
        return _Old(piece, unit, mapped(paragraph, unit))

    # --- what is told -------------------------------------------------------------------------

    def edit(self, what: str, at: int, old: str, new: str, by: By | None, why: str = "") -> int:
        """Note a change; its place in the list of all."""
        line, column = self.source.line_of(at)
        self.made.edits.append(Edit(what, line, column, old, new, "reported" if why else "merged", why, by))
        return len(self.made.edits) - 1

    def place_of(self, old: _Old) -> int:
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

    # --- groups -------------------------------------------------------------------------------

    def merge(self) -> Merged:
        """All of them."""
        olds = [old.piece for old in self.old]
        ties = align(olds, self.new)
        order = [(min(of), at) for at, of in enumerate(ties.of_new) if of]
        stays = {new for _, new in rising(sorted(order))}
        done: set[int] = set()
        last: _Old | None = None
        fresh: list[tuple[int, _Old | None]] = []
        for at in range(len(self.new)):
            if at in done:
                continue
            old, new = self._group(ties, at)
            done |= set(new)
            if not old:
                fresh.append((at, last))
                continue
            is_moved = not set(new) & stays
            self._settle([self.old[one] for one in old], [self.new[one] for one in new], is_moved, last)
            if not is_moved:
                last = self.old[old[-1]]
        self._fresh(fresh)
        self._gone(ties)
        self._remarks()
        return self.made

    def _group(self, ties: Ties, at: int) -> tuple[list[int], list[int]]:
        """All that belongs together with a piece that came back."""
        old, new = set(ties.of_new[at]), {at}
        while True:
            further = {one for each in old for one in ties.of_old[each]} | new
            wider = {one for each in further for one in ties.of_new[each]} | old
            if further == new and wider == old:
                return sorted(old), sorted(new)
            old, new = wider, further

    def _settle(self, old: list[_Old], new: list[Piece], is_moved: bool, last: _Old | None) -> None:
        """One group."""
        if not is_moved and len(old) == len(new) == 1 and _is_same(old[0].piece, new[0]):
            return
        if old[0].piece.is_table:
            self._table(old[0], new[0])
        elif any(one.mapped is None for one in old):
            self._made_elsewhere(old, new)
        elif len(old) == len(new) == 1 and is_moved:
            self._moved(old[0], new[0], last)
        elif len(old) == len(new) == 1:
            self._one(old[0], new[0].paragraphs[0])
        else:
            self._several(old, [one.paragraphs[0] for one in new])

    def _made_elsewhere(self, old: list[_Old], new: list[Piece]) -> None:
        """What is no text of the page: told where it differs."""
        before = "\n".join(_said(one.piece) for one in old)
        after = "\n".join(_said(one) for one in new)
        if before.split() == after.split():
            return
        by = next(
            (letter.by for one in new for paragraph in one.paragraphs for letter in paragraph.letters if letter.by),
            None,
        )
        why = _MADE if old[0].unit is None else "it could not be found in the source letter by letter"
        said, told = _difference(before, after)
        self.edit(f"{old[0].piece.kind}", self.place_of(old[0]), said, told, by, why)
        self.made.told += [paragraph.text for one in new for paragraph in one.paragraphs]

    # --- one paragraph ------------------------------------------------------------------------

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
            edits.append(self.edit("mark taken out", atom.start, atom.raw, "", None))
        return kept, edits

    def _labels(self, olds: list[Mapped], news: list[Paragraph]) -> None:
        """What says which figure it is counts by itself: told where somebody has written into it."""
        before = "".join(letter.text for old in olds for letter in old.paragraph.letters if letter.key == LABEL)
        letters = [letter for new in news for letter in new.letters if letter.key == LABEL]
        after = "".join(letter.text for letter in letters)
        if _without_digits(before) != _without_digits(after) and (after or before):
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
        for level in LEVELS:
            tried = [Patch(one.start, one.end, one.text, tuple(edits)) for one in patches(level)]
            if self._is_free(tried) and self.checker.holds(tried, first, last, wanted):
                self.made.patches += tried
                return True
        self.give_up(edits, "it could not be written so that it reads as it does there", said)
        return False

    def give_up(self, edits: list[int], why: str, said: Sequence[str]) -> None:
        """Report edits after all; `said` is what the paragraphs say that they are in."""
        for number in edits:
            self.made.edits[number].outcome, self.made.edits[number].why = "reported", why
        self.made.told += said

    def _is_free(self, patches: list[Patch]) -> bool:
        """Whether no other change lies in the same stretch."""
        return not any(
            one.start < other.end and other.start < one.end for one in patches for other in self.made.patches
        )

    def at(self, unit: Unit) -> int:
        """The place of a unit among all."""
        return self.checker.places[id(unit)]

    def _one(self, old: _Old, paragraph: Paragraph) -> None:
        """A paragraph that is still one, at its place."""
        assert old.mapped is not None and old.unit is not None
        unit = old.unit
        kept, edits = self.kept([old.mapped], [paragraph])
        kind, level = self._kind(unit, old.piece.paragraphs[0], paragraph)
        is_same_kind = (kind, level) == (kind_of(unit), level_of(unit))
        row = kept.rows[0]
        wanted = reading_of(row, [unit], kind, level)
        if wanted == reading(unit):
            return
        if not is_same_kind:
            old_kind, new_kind = _kind_words(kind_of(unit), level_of(unit)), _kind_words(kind, level)
            edits.append(self.edit("kind of paragraph", unit.start, old_kind, new_kind, paragraph.by))
        if not edits:
            edits.append(self.edit("words", unit.start, old.mapped.paragraph.text, paragraph.text, paragraph.by))
        in_cell = unit.kind == "cell"

        def patches(escapes: int) -> list[Patch]:
            made = written([unit], self.text, row, escapes, in_cell)
            if in_cell:
                return [_cell_patch(self.text, unit, made)]
            if is_same_kind:
                return [Patch(unit.start, unit.end, made)]
            return [Patch(unit.first, unit.last, self._as_kind(unit, kind, level, paragraph.ordered, made))]

        number = self.at(unit)
        self.attempt(edits, patches, number, number + 1, [wanted] if wanted[2] else [], _texts([paragraph]))

    def _kind(self, unit: Unit, before: Paragraph, after: Paragraph) -> tuple[str, int]:
        """What a paragraph is to be: as it was, unless its kind is another than the one that went out."""
        if after.kind == before.kind and (after.kind != "h" or after.level == before.level):
            return kind_of(unit), level_of(unit)
        if after.kind == "h" and unit.kind == "h":
            return "h", unit.level + after.level - before.level
        if after.kind in {"p", "h", "li", "quote"} and unit.kind in {"p", "h", "li", "quote", "item"}:
            return after.kind, after.level if after.kind == "h" else 0
        return kind_of(unit), level_of(unit)

    def _as_kind(self, unit: Unit, kind: str, level: int, ordered: bool, made: str) -> str:
        """A block of another kind with the same words."""
        behind = self.text[unit.end : unit.last] if unit.kind == "h" else ""
        if kind == "h":
            before = self.text[unit.first : unit.start]
            return "#" * level + " " + made + (behind if before.lstrip().startswith("#") else "")
        if kind == "li":
            return ("1. " if ordered else "- ") + made
        return "> " + made if kind == "quote" else made

    # --- several ------------------------------------------------------------------------------

    def _several(self, old: list[_Old], paragraphs: list[Paragraph]) -> None:
        """Paragraphs that were split or joined."""
        olds = [one.mapped for one in old if one.mapped is not None]
        units = [one.unit for one in olds]
        kept, edits = self.kept(olds, paragraphs)
        first, kind, level = units[0], kind_of(units[0]), level_of(units[0])
        rows = kept.rows
        wanted = [reading_of(row, units, kind, level) for row in rows]
        numbers = [self.at(unit) for unit in units]
        what = "paragraph split" if len(paragraphs) > len(old) else "paragraphs joined"
        if len(paragraphs) != len(old):
            edits.append(
                self.edit(
                    what,
                    first.start,
                    "",
                    _short(paragraphs[-1].text, 40),
                    next((one.by for one in paragraphs if one.by), None),
                )
            )
        if any(BREAK in touched.new for touched in kept.touched):
            self.give_up(edits, "a mark was parted", _texts(paragraphs))
            return
        between = self._between(first)

        def patches(escapes: int) -> list[Patch]:
            made = between.join(written(units, self.text, row, escapes) for row in rows)
            return [Patch(first.start, units[-1].end, made)]

        if numbers != list(range(numbers[0], numbers[0] + len(numbers))):
            self.give_up(edits, "the paragraphs do not follow each other in the source", _texts(paragraphs))
            return
        self.attempt(edits, patches, numbers[0], numbers[-1] + 1, wanted, _texts(paragraphs))

    def _between(self, unit: Unit) -> str:
        """What parts two paragraphs of a unit's kind."""
        line = self.text[self.text.rfind("\n", 0, unit.start) + 1 : unit.start]
        if unit.kind == "li":
            return "\n" + _next_sign(line, 1)
        if unit.kind == "quote":
            return f"\n{line.rstrip()}\n{line}"
        if unit.kind == "h":
            return "\n\n" + line
        if unit.kind in {"item", "note", "meaning"}:
            return "\n\n" + " " * len(line)
        return "\n\n" + (line if not line.strip() else "")

    def _moved(self, old: _Old, new: Piece, last: _Old | None) -> None:
        """A paragraph that stands elsewhere now."""
        assert old.mapped is not None and old.unit is not None
        unit, paragraph = old.unit, new.paragraphs[0]
        kept, edits = self.kept([old.mapped], [paragraph])
        edits.append(self.edit("paragraph moved", unit.start, _short(paragraph.text), "", paragraph.by))
        before = self._last_unit(last)
        number, target = self.at(unit), self.at(before) if before is not None else -1
        wanted_one = reading_of(kept.rows[0], [unit], kind_of(unit), level_of(unit))
        readings = [reading(one) for one in self.units]
        moved = [one for at, one in enumerate(readings) if at != number]
        place = target + 1 - (number < target + 1)
        moved.insert(place, wanted_one)
        low, high = min(number, place), max(number, place) + 1

        def patches(escapes: int) -> list[Patch]:
            made = written([unit], self.text, kept.rows[0], escapes)
            block = self.text[unit.first : unit.start] + made + self.text[unit.end : unit.last]
            start, end = _cut_out(self.text, unit)
            at, inserted = self._beside(before, block, unit.kind)
            return [Patch(start, end, ""), Patch(at, at, inserted)]

        self.attempt(edits, patches, low, high, moved[low:high], _texts([paragraph]))

    def _last_unit(self, old: _Old | None) -> Unit | None:
        """The last unit of a piece, after which something is to stand."""
        if old is None:
            return None
        if old.piece.is_table:
            keys = {key for paragraph in old.piece.paragraphs for key in paragraph.keys}
            own = [unit for unit in self.units if unit.key in keys]
            return own[-1] if own else self._unit_before(self.place_of(old))
        return old.unit if old.unit is not None else self._unit_before(self.place_of(old))

    def _unit_before(self, place: int) -> Unit | None:
        found = [unit for unit in self.units if unit.start < place and unit.kind != "note"]
        return found[-1] if found else None

    def _beside(self, before: Unit | None, block: str, kind: str) -> tuple[int, str]:
        """Where a block goes that is to stand behind a unit, and what is to be put there."""
        if before is None:
            at = self.source.tops[0][0] if self.source.tops else len(self.text)
            return at, block + "\n\n"
        at = self._end_of(before)
        return at, ("\n" if kind == "li" == before.kind else "\n\n") + block

    def _end_of(self, unit: Unit) -> int:
        """Where something may be put that stands behind a unit: after its caption, its chunk, its box."""
        if unit.kind in {"li", "item", "quote", "note"}:
            return unit.last
        return next((end for start, end in self.source.tops if start <= unit.start <= end), unit.last)

    # --- new and gone -------------------------------------------------------------------------

    def _fresh(self, fresh: list[tuple[int, _Old | None]]) -> None:
        """What is new, in runs behind the same paragraph."""
        runs: list[tuple[_Old | None, list[Piece]]] = []
        for at, last in fresh:
            if runs and runs[-1][0] is last:
                runs[-1][1].append(self.new[at])
            else:
                runs.append((last, [self.new[at]]))
        for last, pieces in runs:
            self._add(last, pieces)

    def _add(self, last: _Old | None, pieces: list[Piece]) -> None:
        before = self._last_unit(last)
        place = self.place_of(last) if last is not None else 0
        texts: list[tuple[Paragraph, list[Item]]] = []
        edits: list[int] = []
        for piece in pieces:
            paragraph = piece.paragraphs[0]
            if piece.is_table or paragraph.kind not in {"p", "h", "li", "quote", "note", "caption", "meaning", "term"}:
                self.edit(
                    f"new {piece.kind}", place, "", _short(piece.text), paragraph.by, "it is to be written by hand"
                )
                continue
            kept = compare([], [own_letters(paragraph)])
            for change in kept.foreign:
                self.edit(change.what, place, "", change.new, change.by, "it is to be written by hand")
            texts.append((paragraph, kept.rows[0]))
        for paragraph, _ in texts:
            by = paragraph.by or next((letter.by for letter in paragraph.letters if letter.by), None)
            words = _kind_words(_new_kind(paragraph), paragraph.level)
            edits.append(self.edit(f"new {words}", place, "", _short(paragraph.text), by))
        if not texts:
            return
        wanted = [reading_of(row, [], _new_kind(one), one.level if one.kind == "h" else 0) for one, row in texts]

        def patches(escapes: int) -> list[Patch]:
            return [self._added(before, texts, escapes)]

        number = self.at(before) + 1 if before is not None else 0
        self.attempt(edits, patches, number, number, wanted, _texts([one for one, _ in texts]))

    def _added(self, before: Unit | None, texts: list[tuple[Paragraph, list[Item]]], escapes: int) -> Patch:
        """New blocks behind a unit."""
        out: list[str] = []
        kind = before.kind if before is not None else ""
        line = self.text[self.text.rfind("\n", 0, before.start) + 1 : before.start] if before is not None else ""
        for count, (paragraph, row) in enumerate(texts, 1):
            made = written([], self.text, row, escapes)
            own = _new_kind(paragraph)
            if own == "li" and kind == "li":
                sign = (
                    _next_sign(line, count) if before is not None and before.kind == "li" else _sign(paragraph, count)
                )
                out.append("\n" + sign + made)
            else:
                out.append("\n\n" + _block(own, paragraph, made))
            kind = own
        text = "".join(out)
        if before is None:
            at, _ = self._beside(None, "", "")
            return Patch(at, at, text.lstrip("\n") + "\n\n")
        is_item = before.kind == "li" and _new_kind(texts[0][0]) == "li"
        at = before.last if is_item else self._end_of(before)
        if before.kind in {"li", "item"} and not is_item:
            at = next((end for start, end in self.source.tops if start <= before.start <= end), before.last)
        return Patch(at, at, text)

    def _gone(self, ties: Ties) -> None:
        """What is not there any more."""
        for at, old in enumerate(self.old):
            if ties.of_old[at] or not old.piece.text.strip():
                continue
            if old.piece.is_table or old.unit is None or old.mapped is None:
                text = _short(old.piece.text)
                self.edit(
                    f"{old.piece.kind} taken away", self.place_of(old), text, "", None, "it is to be taken out by hand"
                )
                continue
            unit = old.unit
            edits = [
                self.edit(
                    f"{_kind_words(kind_of(unit), level_of(unit))} taken away",
                    unit.start,
                    _short(old.piece.text),
                    "",
                    None,
                )
            ]
            number = self.at(unit)
            start, end = _cut_out(self.text, unit)
            self.attempt(edits, lambda _, start=start, end=end: [Patch(start, end, "")], number, number + 1, [])  # type: ignore[misc]

    # --- tables -------------------------------------------------------------------------------

    def _table(self, old: _Old, new: Piece) -> None:
        """A table that is written by hand, cell by cell; one that code has made is only compared."""
        before, after = _lines(old.piece), _lines(new)
        own = self.cells
        rows = [[next((own[key] for key in cell.keys if key in own), None) for cell in line] for line in before]
        table = next((unit.table for line in rows for unit in line if unit is not None), None)
        if table is None:
            self._made_table(old, before, after)
            return
        if {len(line) for line in before} != {len(line) for line in after}:
            self.edit("columns of a table", self.place_of(old), "", "", None, "columns were added or taken away")
            self.made.told += [cell.text for line in after for cell in line]
            return
        pairs = _pairs_of_rows(before, after)
        for line, back in pairs.items():
            for cell, unit, came in zip(before[line], rows[line], after[back], strict=True):
                self._cell(cell, unit, came, table)
        self._rows_gone(before, rows, [at for at in range(len(before)) if at not in pairs])
        self._rows_new(rows, after, pairs)

    def _made_table(self, old: _Old, before: list[list[Paragraph]], after: list[list[Paragraph]]) -> None:
        said = [[cell.text.strip() for cell in line] for line in before]
        told = [[cell.text.strip() for cell in line] for line in after]
        if said == told:
            return
        place = self.place_of(old)
        if [len(line) for line in said] != [len(line) for line in told]:
            self.edit("table", place, f"{len(said)} rows", f"{len(told)} rows", None, _MADE)
            self.made.told += [text for line in told for text in line]
            return
        for line, (one, other) in enumerate(zip(said, told, strict=True)):
            for column, (text, now) in enumerate(zip(one, other, strict=True)):
                if text != now:
                    by = next((letter.by for letter in after[line][column].letters if letter.by), None)
                    self.edit("cell of a table", place, text, now, by, _MADE)

    def _cell(self, cell: Paragraph, unit: Unit | None, came: Paragraph, table: int) -> None:
        if unit is None:
            if cell.text.strip() != came.text.strip():
                self.edit(
                    "cell", self.source.starts[table], cell.text, came.text, came.by, "the cell is empty in the source"
                )
            return
        known = mapped(cell, unit)
        if known is None:
            if cell.text.strip() != came.text.strip():
                self.edit(
                    "cell",
                    unit.start,
                    cell.text,
                    came.text,
                    came.by,
                    "it could not be found in the source letter by letter",
                )
            return
        self._one(_Old(Piece([cell]), unit, known), came)

    def _rows_gone(self, before: list[list[Paragraph]], rows: list[list[Unit | None]], gone: list[int]) -> None:
        for line in gone:
            units = [unit for unit in rows[line] if unit is not None]
            said = " | ".join(cell.text for cell in before[line])
            if not units or line == 0:
                self.edit(
                    "row taken away",
                    0,
                    said,
                    "",
                    None,
                    "the head of a table, or an empty row, is to be taken out by hand",
                )
                continue
            start = self.text.rfind("\n", 0, units[0].start) + 1
            end = self.text.find("\n", units[-1].end) + 1 or len(self.text)
            edits = [self.edit("row taken away", units[0].start, said, "", None)]
            first = self.at(units[0])
            self.attempt(edits, lambda _, start=start, end=end: [Patch(start, end, "")], first, first + len(units), [])  # type: ignore[misc]

    def _rows_new(self, rows: list[list[Unit | None]], after: list[list[Paragraph]], pairs: dict[int, int]) -> None:
        known = {back: line for line, back in pairs.items()}
        last: list[Unit] = []
        for back, line in enumerate(after):
            if back in known:
                last = [unit for unit in rows[known[back]] if unit is not None] or last
                continue
            said = " | ".join(cell.text for cell in line)
            by = next((cell.by for cell in line if cell.by), None)
            if not last:
                self.edit("new row", 0, "", said, by, "a row above the head of a table is to be written by hand")
                self.made.told += [cell.text for cell in line]
                continue
            place = last[-1]
            begin = self.text.rfind("\n", 0, place.start) + 1
            end = self.text.find("\n", place.end)
            end = len(self.text) if end < 0 else end
            if place.row == 0:
                end = self.text.find("\n", end + 1)
                end = len(self.text) if end < 0 else end
            edits = [self.edit("new row", place.start, "", said, by)]
            items = [compare([], [own_letters(cell)]).rows[0] for cell in line]
            wanted = [reading_of(row, [], "cell", 0) for row in items if row]
            bars = _bars(self.text[begin : self.text.find("\n", begin)])
            sides = self._sides(place)

            def patches(
                escapes: int,
                items: list[list[Item]] = items,
                end: int = end,
                bars: list[int] = bars,
                sides: list[bool] = sides,
            ) -> list[Patch]:
                cells = [written([], self.text, row, escapes, in_cell=True) for row in items]
                return [Patch(end, end, "\n" + _row_text(cells, bars, sides))]

            number = self.at(place) + 1
            self.attempt(edits, patches, number, number, wanted, _texts(line))

    def _sides(self, unit: Unit) -> list[bool]:
        """Which columns of a table have their words at the right."""
        line = self.source.starts[unit.table + 1]
        cells = self.text[line : self.text.find("\n", line)].strip().strip("|").split("|")
        return [cell.strip().endswith(":") and not cell.strip().startswith(":") for cell in cells]

    # --- comments -----------------------------------------------------------------------------

    def _remarks(self) -> None:
        """Comments, with the place in the source that each is about."""
        for comment in self.document.comments.values():
            self.made.remarks.append(self._remark(comment))

    def _remark(self, comment: Comment) -> Remark:
        quote, around, key = "", "", ""
        for paragraph in self.document.paragraphs:
            letters = [letter for letter in paragraph.letters if comment.number in letter.comments]
            if letters and not quote:
                around = paragraph.text
                key = next((letter.key for letter in letters if "_" in letter.key), "") or next(
                    iter(paragraph.keys), ""
                )
            quote += "".join(letter.text for letter in letters)
        line, _, column = key.partition("_")
        if comment.number in self.commented:
            place = self.source.line_of(self.commented[comment.number])
        else:
            place = (int(line), int(column)) if column else self._place_in_text(around)
        return Remark(
            comment.number,
            comment.author,
            comment.date,
            comment.text,
            *place,
            quote,
            _short(around, 200),
            comment.answers,
            comment.done,
        )

    def _place_in_text(self, around: str) -> tuple[int, int]:
        """Where the words around a comment are written, where no bookmark tells."""
        for old in self.old:
            if old.unit is not None and around and old.piece.text.strip() == around.strip():
                return self.source.line_of(old.unit.start)
        return 1, 1


def _is_same(old: Piece, new: Piece) -> bool:
    """Whether nothing at all has been done to a piece."""
    if len(old.paragraphs) != len(new.paragraphs):
        return False
    return all(_is_untouched(one, other) for one, other in zip(old.paragraphs, new.paragraphs, strict=True))


def _is_untouched(old: Paragraph, new: Paragraph) -> bool:
    if (old.kind, old.level, old.ordered, len(old.letters)) != (new.kind, new.level, new.ordered, len(new.letters)):
        return False
    return all(
        one.text == other.text
        and one.looks == other.looks
        and one.what == other.what
        and not other.comments
        and other.by is None
        for one, other in zip(old.letters, new.letters, strict=True)
    )


def _find_labels(old: Document, new: Document) -> None:
    """Where bookmarks are lost, what says which figure it is is known by what it says."""
    labels = {"".join(letter.text for letter in one.letters if letter.key == LABEL) for one in old.paragraphs} - {""}
    for paragraph in new.paragraphs:
        label = next((label for label in sorted(labels, key=len, reverse=True) if paragraph.text.startswith(label)), "")
        behind = paragraph.text[len(label) : len(label) + 1]
        if label and (paragraph.kind == "caption" or behind in {"\u2002", ":"}):
            own = paragraph.letters
            paragraph.letters = [*(replace(one, key=LABEL) for one in own[: len(label)]), *own[len(label) :]]


def _without_digits(text: str) -> str:
    """A label without its number, which may have been brought up to date."""
    return "".join(letter for letter in text if not letter.isdigit())


def _texts(paragraphs: Sequence[Paragraph]) -> list[str]:
    """What paragraphs say, without what says which figure they belong to."""
    return ["".join(letter.text for letter in own_letters(one)) for one in paragraphs]


def _said(piece: Piece) -> str:
    return "\n".join("".join(letter.text for letter in paragraph.letters) for paragraph in piece.paragraphs)


def _difference(before: str, after: str) -> tuple[str, str]:
    """The stretch in which two texts differ, in whole words."""
    old, new = before.split(), after.split()
    first = 0
    while first < min(len(old), len(new)) and old[first] == new[first]:
        first += 1
    last = 0
    while last < min(len(old), len(new)) - first and old[-1 - last] == new[-1 - last]:
        last += 1
    return " ".join(old[first : len(old) - last]), " ".join(new[first : len(new) - last])


def _short(text: str, most: int = 80) -> str:
    text = " ".join(text.split())
    return text if len(text) <= most else text[: most - 1] + "…"


def _kind_words(kind: str, level: int) -> str:
    names = {
        "p": "paragraph",
        "h": f"heading {level}",
        "li": "item",
        "quote": "quotation",
        "note": "note",
        "caption": "caption",
    }
    return names.get(kind, kind)


def _new_kind(paragraph: Paragraph) -> str:
    return paragraph.kind if paragraph.kind in {"h", "li", "quote"} else "p"


def _block(kind: str, paragraph: Paragraph, made: str) -> str:
    if kind == "h":
        return "#" * paragraph.level + " " + made
    if kind == "li":
        return _sign(paragraph, 1) + made
    return "> " + made if kind == "quote" else made


def _sign(paragraph: Paragraph, count: int) -> str:
    inside = "   " * (paragraph.level - 1)
    return inside + (f"{count}. " if paragraph.ordered else "- ")


_SIGN = re.compile(r"^(?P<lead>[\s>]*)(?P<sign>[-*+]|(?P<number>\d+)(?P<dot>[.)]))(?P<gap>\s+)(?P<task>\[[ xX]\]\s+)?$")


def _next_sign(line: str, count: int) -> str:
    """What stands before an item that follows the one whose line begins so."""
    found = _SIGN.match(line)
    if found is None:
        return line if not line.strip() else "- "
    sign = f"{int(found['number']) + count}{found['dot']}" if found["number"] else found["sign"]
    return f"{found['lead']}{sign}{found['gap']}{'[ ] ' if found['task'] else ''}"


def _cut_out(text: str, unit: Unit) -> tuple[int, int]:
    """The lines of a unit, with the blank ones behind it; at the end of the page, those before it."""
    start, end = unit.first, unit.last
    rest = text[end:]
    blank = len(rest) - len(rest.lstrip("\n"))
    if blank and end + blank < len(text):
        return start, end + blank
    return len(text[:start].rstrip("\n")), end


def _cell_patch(text: str, unit: Unit, made: str) -> Patch:
    """A cell's new words, the bars left in line where there is room."""
    left, right = unit.start, unit.end
    while text[left - 1] == " ":
        left -= 1
    while text[right : right + 1] == " ":
        right += 1
    before, behind, room = unit.start - left, right - unit.end, right - left
    if len(made) + 2 > room:
        return Patch(left, right, f" {made} ")
    if before > behind:
        return Patch(left, right, " " * (room - len(made) - behind) + made + " " * behind)
    return Patch(left, right, " " * before + made + " " * (room - before - len(made)))


def _lines(piece: Piece) -> list[list[Paragraph]]:
    """The cells of a table by rows; of a cell with several paragraphs the first, with the words of all."""
    rows: dict[int, dict[int, Paragraph]] = {}
    for paragraph in piece.paragraphs:
        row = rows.setdefault(paragraph.row, {})
        if paragraph.column in row:
            first = row[paragraph.column]
            first.letters = [*first.letters, Letter("\n"), *paragraph.letters]
        else:
            row[paragraph.column] = paragraph
    return [[row[column] for column in sorted(row)] for _, row in sorted(rows.items())]


def _pairs_of_rows(before: list[list[Paragraph]], after: list[list[Paragraph]]) -> dict[int, int]:
    """Which rows are the same: by bookmarks, then by what they say, then by their place between those."""
    keys = [{key for cell in line for key in cell.keys} for line in before]
    pairs: dict[int, int] = {}
    for back, line in enumerate(after):
        own = {key for cell in line for key in cell.keys}
        known = next((at for at, one in enumerate(keys) if one & own and at not in pairs), None)
        if known is not None:
            pairs[known] = back
    from difflib import SequenceMatcher

    old = ["|".join(cell.text.strip() for cell in line) for line in before]
    new = ["|".join(cell.text.strip() for cell in line) for line in after]
    if not pairs:
        for tag, a, b, c, d in SequenceMatcher(None, old, new, autojunk=False).get_opcodes():
            if tag == "equal" or (tag == "replace" and b - a == d - c):
                pairs.update({a + at: c + at for at in range(b - a)})
    return dict(sorted(pairs.items()))


def _bars(line: str) -> list[int]:
    return [at for at, letter in enumerate(line) if letter == "|" and line[at - 1 : at] != "\\"]


def _row_text(cells: list[str], bars: list[int], sides: list[bool]) -> str:
    """A row whose bars stand below those of another, where there is room."""
    made = "|"
    for at, cell in enumerate(cells):
        room = bars[at + 1] - bars[at] - 3 if at + 1 < len(bars) else 0
        is_right = at < len(sides) and sides[at]
        made += f" {cell.rjust(room) if is_right else cell.ljust(room)} |"
    return made
