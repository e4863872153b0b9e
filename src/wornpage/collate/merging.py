"""From a document that came back to changes of the source: each is made only if the source then reads as the document does."""

from __future__ import annotations

import re
from collections.abc import Callable
from functools import partial
from itertools import groupby

from msgspec.structs import replace

from wornpage.collate import abstracts
from wornpage.collate.aligning import Piece, Ties, align, pieces_of
from wornpage.collate.blocks import (
    cell_patch,
    cut_out,
    difference,
    is_same,
    kind_in_words,
    new_block,
    new_kind,
    new_sign,
    next_sign,
    one_gap_each,
    said_of,
    short,
    texts_of,
    within,
)
from wornpage.collate.checking import FLOW, HEAD, Reading, kind_of, level_of, reading, reading_of
from wornpage.collate.items import Item, compare, is_look
from wornpage.collate.letters import BREAK, Document, Paragraph
from wornpage.collate.mapping import mapped, own_letters
from wornpage.collate.particulars import STYLES, Head
from wornpage.collate.reading import LABEL
from wornpage.collate.record import Record
from wornpage.collate.remarks import Remarks
from wornpage.collate.report import Patch
from wornpage.collate.spelling import written
from wornpage.collate.tabling import Tables
from wornpage.collate.wording import rising
from wornpage.collate.work import MADE, UNWRITTEN, Merged, Old, Work
from wornpage.source.heads import is_quoted_for
from wornpage.source.units import Unit, units_of

_LINE_END = re.compile(r"[ \t]*\\?\n\s*")
_Ways = tuple[Callable[[int], list[Patch]], int, int, list[Reading]]
"""Ways to write some units: what each changes, the first of them, the one behind the last, and how they are to read."""
_NUMBERED = {True: "with numbers", False: "without numbers"}


def merge(record: Record, document: Document) -> Merged:
    """The changes between what went out and what came back."""
    return _Merger(record, document).merge()


class _Merger(Work):
    """Goes through the groups of paragraphs that belong together."""

    def __init__(self, record: Record, document: Document) -> None:
        super().__init__(units_of(record.source), by_text_alone=not document.has_marks)
        self.document = document
        self.tables = Tables(self, self._one)
        by_key = {unit.key: unit for unit in self.units}
        self.old = [self._old(piece, by_key) for piece in pieces_of(record.document, keeps_empty=True)]
        _find_labels(record.document, document)
        self.new = pieces_of(document, keeps_empty=False)
        self.head = Head(self.text, [old.piece for old in self.old], self.new)

    def _old(self, piece: Piece, by_key: dict[str, Unit]) -> Old:
        paragraph = piece.paragraphs[0]
        unit = next((by_key[key] for key in paragraph.keys if key in by_key), None)
        if piece.is_table or unit is None:
            return Old(piece, unit, None)
        return Old(piece, unit, mapped(paragraph, unit))

    # --- groups -------------------------------------------------------------------------------

    def merge(self) -> Merged:
        """All of them."""
        olds = [old.piece for old in self.old]
        ties = align(olds, self.new)
        order = [(min(of), at) for at, of in enumerate(ties.of_new) if of]
        stays = {new for _, new in rising(sorted(order))}
        done: set[int] = set()
        last: Old | None = None
        fresh: list[tuple[int, Old | None]] = []
        for at in range(len(self.new)):
            if at in done:
                continue
            old, new = self._group(ties, at)
            done |= set(new)
            if not old:
                fresh.append((at, last))
                continue
            is_moved = not set(new) & stays and self.new[at].kind != "note"
            if is_moved and len(old) == len(new) == 1 and self._may_move(self.old[old[0]]):
                self._moved(self.old[old[0]], at, last)
                continue
            self._settle([self.old[one] for one in old], [self.new[one] for one in new], is_moved)
            if not is_moved:
                last = self.old[old[-1]]
        self._fresh(fresh)
        self._gone(ties)
        self.made.patches = one_gap_each(self.made.patches)
        self.made.remarks = Remarks(self, self.old).of(self.document)
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

    def _settle(self, old: list[Old], new: list[Piece], is_moved: bool) -> None:
        """One group; that it stands elsewhere is no more than told."""
        if is_moved and old[0].piece.text.strip():
            text = short(old[0].piece.text)
            what = f"{old[0].piece.kind} moved"
            self.edit(what, self.place_of(old[0]), text, "", None, "it is to be moved by hand")
        if not is_moved and len(old) == len(new) == 1 and is_same(old[0].piece, new[0]):
            return
        if old[0].piece.is_table:
            self.tables.merge(old[0], new[0])
        elif len(old) == len(new) == 1 and self._in_head(old[0], new[0].paragraphs[0]):
            return
        elif any(one.mapped is None for one in old):
            self._made_elsewhere(old, new)
        elif len(old) == len(new) == 1:
            self._one(old[0], new[0].paragraphs[0])
        else:
            self._several(old, [one.paragraphs[0] for one in new])

    def _in_head(self, old: Old, after: Paragraph) -> bool:
        """Whether it is authors, keywords or a date, and what was done to them can be done to the front matter."""
        before = old.piece.paragraphs[0]
        change = self.head.change(before, after) if before.style in STYLES and old.unit is None else None
        if change is None or not self._is_free(change.patches):
            return False
        by = next((letter.by for letter in after.letters if letter.by), after.by)
        edits = tuple(self.edit(one.what, one.at, one.old, one.new, by, one.why) for one in change.told)
        merged = tuple(one for one in edits if self.made.edits[one].outcome == "merged")
        self.made.patches += [replace(one, edits=merged) for one in change.patches if merged]
        self.made.heads.append(change.frame)
        return True

    def _made_elsewhere(self, old: list[Old], new: list[Piece]) -> None:
        """What is no text of the page: told where it differs."""
        before = "\n".join(said_of(one.piece) for one in old)
        after = "\n".join(said_of(one) for one in new)
        if before.split() == after.split():
            return
        by = next(
            (letter.by for one in new for paragraph in one.paragraphs for letter in paragraph.letters if letter.by),
            None,
        )
        why = MADE if old[0].unit is None else "it could not be found in the source letter by letter"
        said, told = difference(before, after)
        self.edit(f"{old[0].piece.kind}", self.place_of(old[0]), said, told, by, why)
        self.made.told += [paragraph.text for one in new for paragraph in one.paragraphs]

    # --- one paragraph ------------------------------------------------------------------------

    def _one(self, old: Old, paragraph: Paragraph) -> None:
        """A paragraph that is still one, at its place."""
        assert old.mapped is not None and old.unit is not None
        unit = old.unit
        kept, edits = self.kept([old.mapped], [paragraph])
        kind, level = self._kind(unit, old.piece.paragraphs[0], paragraph)
        is_same_kind = (kind, level) == (kind_of(unit), level_of(unit))
        self._place_in_list(old, paragraph)
        row = kept.rows[0]
        wanted = reading_of(row, [unit], kind, level)
        if wanted == reading(unit):
            return
        if not is_same_kind:
            old_kind, new_kind = kind_in_words(kind_of(unit), level_of(unit)), kind_in_words(kind, level)
            edits.append(self.edit("kind of paragraph", unit.start, old_kind, new_kind, paragraph.by))
        if not edits:
            edits.append(self.edit("words", unit.start, old.mapped.paragraph.text, paragraph.text, paragraph.by))
        in_cell = unit.kind == "cell"

        def patches(escapes: int, row: list[Item]) -> list[Patch]:
            made = written([unit], self.text, row, escapes, in_cell)
            if in_cell:
                return [cell_patch(self.text, unit, made)]
            if is_same_kind:
                return [Patch(unit.start, unit.end, made)] if unit.kind != "title" else [self._title(unit, made)]
            return [Patch(unit.first, unit.last, self._as_kind(unit, kind, level, paragraph.ordered, made))]

        number = self.at(unit)

        def ways(row: list[Item]) -> _Ways:
            said = reading_of(row, [unit], kind, level)
            return partial(patches, row=row), number, number + 1, [said] if said[2] else []

        if not self.makes(edits, *ways(row)):
            self._looks_apart(unit, row, edits, ways, texts_of([paragraph]))

    def _looks_apart(
        self, unit: Unit, row: list[Item], edits: list[int], ways: Callable[[list[Item]], _Ways], said: list[str]
    ) -> None:
        """A paragraph some of whose looks cannot be written: its words are, and the looks are told of."""
        looks = [one for one in edits if is_look(self.made.edits[one].what)]
        words = [one for one in edits if one not in looks]
        new_are_plain = [one if one.unit >= 0 else replace(one, looks=frozenset()) for one in row]
        as_before = [
            one if one.unit < 0 else replace(one, looks=unit.looks(unit.atoms[one.atom])) for one in new_are_plain
        ]
        if looks and new_are_plain != row and self.makes(edits, *ways(new_are_plain)):
            self._tell_looks(unit, row)
            return
        self.give_up(looks, UNWRITTEN, [])
        if words and self.attempt(words, *ways(as_before), said):
            self._tell_looks(unit, row)

    def _tell_looks(self, unit: Unit, row: list[Item]) -> None:
        """Tell which new words are not set off as they are there."""
        for looks, items in groupby(row, lambda one: one.looks if one.unit < 0 else frozenset[str]()):
            said = "".join(one.text for one in items).strip()
            if looks and said:
                names = ", ".join(sorted(look.partition(":")[0] for look in looks))
                self.edit("look of new words", unit.start, said, f"{said} ({names})", None, UNWRITTEN)

    def _place_in_list(self, old: Old, after: Paragraph) -> None:
        """An item that is further in or out by now, or in a list of another kind."""
        before = old.piece.paragraphs[0]
        if before.kind == after.kind == "li" and old.unit is not None:
            by_hand = "it is to be changed by hand"
            if before.level != after.level:
                steps = f"{abs(after.level - before.level)} {'in' if after.level > before.level else 'out'}"
                self.edit("item moved in or out", old.unit.start, short(after.text), steps, after.by, by_hand)
            if before.ordered != after.ordered:
                was, now = (_NUMBERED[one.ordered] for one in (before, after))
                self.edit("kind of list", old.unit.start, was, now, after.by, by_hand)

    def _title(self, unit: Unit, made: str) -> Patch:
        """A title's new words; in quotation marks where YAML wants them."""
        is_plain = self.text[unit.start - 1 : unit.start] not in {"'", '"'}
        if is_plain and is_quoted_for(made):
            quote = "'" if "'" not in made else '"'
            made = f"{quote}{made}{quote}"
        return Patch(unit.start, unit.end, made)

    def _kind(self, unit: Unit, before: Paragraph, after: Paragraph) -> tuple[str, int]:
        """What a paragraph is to be: as it was, unless its kind is another than the one that went out."""
        if after.is_handed_down or (after.kind == before.kind and (after.kind != "h" or after.level == before.level)):
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

    def _several(self, old: list[Old], paragraphs: list[Paragraph]) -> None:
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
                    short(paragraphs[-1].text, 40),
                    next((one.by for one in paragraphs if one.by), None),
                )
            )
        if any(BREAK in touched.new for touched in kept.touched):
            self.give_up(edits, "a mark was parted", texts_of(paragraphs))
            return
        between = self._between(first)
        is_one_line = kind == "h" and "#" in self.text[first.first : first.start]
        end = units[-1].end + (len(self._underlined(units[-1])) if len(units) > 1 and kind != "h" else 0)

        def patches(escapes: int) -> list[Patch]:
            texts = [written(units, self.text, row, escapes) for row in rows]
            made = between.join(_LINE_END.sub(" ", text) if is_one_line else text for text in texts)
            return [Patch(first.start, end, made + (self._underlined(first) if len(units) > 1 else ""))]

        if numbers != list(range(numbers[0], numbers[0] + len(numbers))):
            self.give_up(edits, "the paragraphs do not follow each other in the source", texts_of(paragraphs))
            return
        self.attempt(edits, patches, numbers[0], numbers[-1] + 1, wanted, texts_of(paragraphs))

    def _between(self, unit: Unit) -> str:
        """What parts two paragraphs of a unit's kind."""
        line = self.text[self.text.rfind("\n", 0, unit.start) + 1 : unit.start]
        if unit.kind == "li":
            return "\n" + next_sign(line, 1)
        lead, sign = line, ""
        if unit.kind == "h" and "#" in line:
            lead, sign = line[: line.index("#")], line[line.index("#") :]
        elif unit.kind == "note" and "[^" in line:
            lead = line[: line.index("[^")] + "    "
        around = within(lead)
        return self._underlined(unit) + f"\n{around.rstrip()}\n{around}{sign}"

    def _underlined(self, unit: Unit) -> str:
        """The line below a heading that makes it one, with the line end before it."""
        behind = self.text[unit.end : unit.last]
        return behind if unit.kind == "h" and re.fullmatch(r"\n[\s>]*(-+|=+)\s*", behind) else ""

    def _may_move(self, old: Old) -> bool:
        """Whether a piece is text that stands by itself: a caption belongs to its figure, a title to the head."""
        return old.mapped is not None and old.unit is not None and kind_of(old.unit) in FLOW

    def _moved(self, old: Old, place: int, last: Old | None) -> None:
        """A paragraph that stands elsewhere now: at a place among all that came back, behind the last that has stayed."""
        assert old.mapped is not None and old.unit is not None
        unit, paragraph = old.unit, self.new[place].paragraphs[0]
        kept, edits = self.kept([old.mapped], [paragraph])
        edits.append(self.edit("paragraph moved", unit.start, short(paragraph.text), "", paragraph.by))
        before = self._last_unit(last)
        number, target = self.at(unit), self.at(before) if before is not None else -1
        wanted_one = reading_of(kept.rows[0], [unit], kind_of(unit), level_of(unit))
        readings = [reading(one) for one in self.units]
        moved = [one for at, one in enumerate(readings) if at != number]
        goal = target + 1 - (number < target + 1)
        moved.insert(goal, wanted_one)
        low, high = min(number, goal), max(number, goal) + 1

        def patches(escapes: int) -> list[Patch]:
            made = written([unit], self.text, kept.rows[0], escapes)
            block = self.text[unit.first : unit.start] + made + self.text[unit.end : unit.last]
            start, end = cut_out(self.text, unit.first, unit.last, escapes)
            at, inserted = self._beside(before, block, unit.kind)
            return [Patch(start, end, ""), Patch(at, at, inserted, order=place)]

        self.attempt(edits, patches, low, high, moved[low:high], texts_of([paragraph]))

    def _last_unit(self, old: Old | None) -> Unit | None:
        """The last unit of a piece, after which something is to stand; none for the head of the page."""
        if old is None or (old.unit is not None and old.unit.kind in HEAD):
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
        return at, self._closed(at, ("\n" if kind == "li" == before.kind else "\n\n") + block, kind)

    def _closed(self, at: int, block: str, kind: str) -> str:
        """A block with a blank line behind it where the next one follows at once."""
        behind = self.text[at : at + 2]
        return block + "\n" * (kind != "li" and len(behind) == 2 and behind[0] == "\n" != behind[1])

    def _end_of(self, unit: Unit) -> int:
        """Where something may be put that stands behind a unit: after its caption, its chunk, its box."""
        if unit.kind in {"li", "item", "quote", "note"}:
            return unit.last
        return next((end for start, end in self.source.tops if start <= unit.start <= end), unit.last)

    # --- new and gone -------------------------------------------------------------------------

    def _fresh(self, fresh: list[tuple[int, Old | None]]) -> None:
        """What is new, in runs that nothing else stands between."""
        runs: list[tuple[Old | None, list[int]]] = []
        for at, last in fresh:
            if runs and runs[-1][0] is last and runs[-1][1][-1] == at - 1:
                runs[-1][1].append(at)
            else:
                runs.append((last, [at]))
        for last, places in runs:
            self._add(last, [self.new[at] for at in places], places[0])

    def _add(self, last: Old | None, pieces: list[Piece], order: int) -> None:
        before = self._last_unit(last)
        place = self.place_of(last) if last is not None else 0
        texts: list[tuple[Paragraph, list[Item]]] = []
        edits: list[int] = []
        for piece in pieces:
            paragraph = piece.paragraphs[0]
            if paragraph.style == "affiliation" and any(used in paragraph.text for used in self.head.used):
                edits.append(self.edit("new affiliation", place, "", short(paragraph.text), paragraph.by))
                continue
            if piece.is_table or paragraph.kind not in {"p", "h", "li", "quote", "note", "caption", "meaning", "term"}:
                self.edit(
                    f"new {piece.kind}", place, "", short(piece.text), paragraph.by, "it is to be written by hand"
                )
                continue
            kept = compare([], [own_letters(paragraph)])
            for change in kept.foreign:
                self.edit(change.what, place, "", change.new, change.by, "it is to be written by hand")
            texts.append((paragraph, kept.rows[0]))
        for paragraph, _ in texts:
            by = paragraph.by or next((letter.by for letter in paragraph.letters if letter.by), None)
            words = kind_in_words(new_kind(paragraph), paragraph.level)
            edits.append(self.edit(f"new {words}", place, "", short(paragraph.text), by))
        if not texts:
            return
        if all(one.style == abstracts.KIND for one, _ in texts) and abstracts.of(self.units):
            self._add_to_abstract(last.unit if last is not None else None, texts, edits, order)
            return
        wanted = [reading_of(row, [], new_kind(one), one.level if one.kind == "h" else 0) for one, row in texts]

        def patches(escapes: int) -> list[Patch]:
            return [replace(self._added(before, texts, escapes), order=order)]

        number = self.at(before) + 1 if before is not None else 0
        self.attempt(edits, patches, number, number, wanted, texts_of([one for one, _ in texts]))

    def _add_to_abstract(
        self, last: Unit | None, texts: list[tuple[Paragraph, list[Item]]], edits: list[int], order: int
    ) -> None:
        """New paragraphs behind one of the abstract's, or before its first."""
        before = last if last is not None and last.kind == abstracts.KIND else None
        wanted = [reading_of(row, [], abstracts.KIND, 0) for _, row in texts]
        number = self.at(before) + 1 if before is not None else self.at(abstracts.of(self.units)[0])

        def patches(way: int, gap: str) -> list[Patch]:
            made = [written([], self.text, row, way) for _, row in texts]
            return [replace(abstracts.added(self.text, self.units, before, made, gap), order=order)]

        *gaps, last_gap = abstracts.GAPS
        if not any(self.makes(edits, partial(patches, gap=gap), number, number, wanted) for gap in gaps):
            said = texts_of([one for one, _ in texts])
            self.attempt(edits, partial(patches, gap=last_gap), number, number, wanted, said)

    def _added(self, before: Unit | None, texts: list[tuple[Paragraph, list[Item]]], escapes: int) -> Patch:
        """New blocks behind a unit."""
        out: list[str] = []
        kind = before.kind if before is not None else ""
        line = self.text[self.text.rfind("\n", 0, before.start) + 1 : before.start] if before is not None else ""
        for count, (paragraph, row) in enumerate(texts, 1):
            made = written([], self.text, row, escapes)
            own = new_kind(paragraph)
            if own == "li" and kind == "li":
                sign = (
                    next_sign(line, count) if before is not None and before.kind == "li" else new_sign(paragraph, count)
                )
                out.append("\n" + sign + made)
            else:
                out.append("\n\n" + new_block(own, paragraph, made))
            kind = own
        text = "".join(out)
        if before is None:
            at, _ = self._beside(None, "", "")
            return Patch(at, at, text.lstrip("\n") + "\n\n")
        at = self._end_of(before)
        return Patch(at, at, self._closed(at, text, kind))

    def _gone(self, ties: Ties) -> None:
        """What is not there any more; notes last, which go with what called them."""
        gone = [old for at, old in enumerate(self.old) if not ties.of_old[at] and old.piece.text.strip()]
        for are_notes in (False, True):
            self._take_out([old for old in gone if are_notes == (old.unit is not None and old.unit.kind == "note")])

    def _take_out(self, gone: list[Old]) -> None:
        """What stood together is taken out together, if that can be."""
        runs: list[list[tuple[int, Unit]]] = []
        for old in gone:
            why = self._why_not_gone(old)
            unit = old.unit
            what = kind_in_words(kind_of(unit), level_of(unit)) if unit is not None and not why else old.piece.kind
            edit = self.edit(f"{what} taken away", self.place_of(old), short(old.piece.text), "", None, why)
            if unit is None or why:
                continue
            if runs and self._is_next(runs[-1][-1][1], unit):
                runs[-1].append((edit, unit))
            else:
                runs.append([(edit, unit)])
        for run in runs:
            if len(run) == 1 or not self._cut(run, self.makes):
                for one in run:
                    self._cut([one], self.attempt)

    def _is_next(self, one: Unit, other: Unit) -> bool:
        """Whether nothing at all, no chunk and no mark either, stands between two units."""
        return self.at(other) == self.at(one) + 1 and not self.text[one.last : other.first].strip()

    def _why_not_gone(self, old: Old) -> str:
        """Why something is not taken out of the source."""
        if old.piece.is_table or old.unit is None or old.mapped is None:
            return "it is to be taken out by hand"
        if old.unit.kind == "note" and f"[^{old.unit.label}]" not in self.taken_out:
            return "it is still called in the text"
        return ""

    def _cut(self, run: list[tuple[int, Unit]], make: Callable[..., bool]) -> bool:
        """Take units that follow each other out."""
        first, last = run[0][1], run[-1][1]

        def patches(way: int) -> list[Patch]:
            if first.kind == abstracts.KIND:
                return [abstracts.without(self.units, first, last)]
            return [Patch(*cut_out(self.text, first.first, last.last, way), "")]

        is_made = make([edit for edit, _ in run], patches, self.at(first), self.at(last) + 1, [])
        if is_made:
            self.taken_out.update(atom.raw for _, unit in run for atom in unit.atoms if atom.key)
        return is_made


def _find_labels(old: Document, new: Document) -> None:
    """Where a bookmark is lost, what says which figure it is is known by what it says."""
    said = {"".join(letter.text for letter in one.letters if letter.key == LABEL) for one in old.paragraphs} - {""}
    labels = tuple(sorted(said, key=len, reverse=True))
    for paragraph in new.paragraphs:
        text = paragraph.text  # made of its letters at each asking
        if not text.startswith(labels) or any(letter.key == LABEL for letter in paragraph.letters):
            continue
        label = next(label for label in labels if text.startswith(label))
        behind = text[len(label) : len(label) + 1]
        if paragraph.kind == "caption" or behind in {"\u2002", ":"}:
            own = paragraph.letters
            paragraph.letters = [*(replace(one, key=LABEL) for one in own[: len(label)]), *own[len(label) :]]
