"""Tables that are written by hand: cells, new rows, rows that are gone; those that code has made are only compared."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from wornpage.collate.aligning import Piece
from wornpage.collate.blocks import bars, pairs_of_rows, row_text, rows_of, texts_of
from wornpage.collate.checking import reading_of
from wornpage.collate.items import Item, compare
from wornpage.collate.letters import Paragraph
from wornpage.collate.mapping import mapped, own_letters
from wornpage.collate.report import Patch
from wornpage.collate.spelling import written
from wornpage.collate.work import MADE, Old, Work
from wornpage.source.units import Unit


class Tables:
    """Brings tables in; `one` brings in the words of a cell."""

    def __init__(self, work: Work, one: Callable[[Old, Paragraph], None]) -> None:
        self.work, self.text, self.one = work, work.text, one
        self.cells = {unit.key: unit for unit in work.units if unit.kind == "cell"}

    def merge(self, old: Old, new: Piece) -> None:
        """A table that is written by hand, cell by cell; one that code has made is only compared."""
        before, after = rows_of(old.piece), rows_of(new)
        own = self.cells
        rows = [[next((own[key] for key in cell.keys if key in own), None) for cell in line] for line in before]
        table = next((unit.table for line in rows for unit in line if unit is not None), None)
        if table is None:
            self._made_table(old, before, after)
            return
        if {len(line) for line in before} != {len(line) for line in after}:
            self.work.edit(
                "columns of a table", self.work.place_of(old), "", "", None, "columns were added or taken away"
            )
            self.work.made.told += [cell.text for line in after for cell in line]
            return
        pairs = pairs_of_rows(before, after)
        for line, back in pairs.items():
            for cell, unit, came in zip(before[line], rows[line], after[back], strict=True):
                self._cell(cell, unit, came, table)
        self._rows_gone(before, rows, [at for at in range(len(before)) if at not in pairs])
        self._rows_new(rows, after, pairs)

    def _made_table(self, old: Old, before: list[list[Paragraph]], after: list[list[Paragraph]]) -> None:
        said = [[cell.text.strip() for cell in line] for line in before]
        told = [[cell.text.strip() for cell in line] for line in after]
        if said == told:
            return
        place = self.work.place_of(old)
        if [len(line) for line in said] != [len(line) for line in told]:
            self.work.edit("table", place, f"{len(said)} rows", f"{len(told)} rows", None, MADE)
            self.work.made.told += [text for line in told for text in line]
            return
        for line, (one, other) in enumerate(zip(said, told, strict=True)):
            for column, (text, now) in enumerate(zip(one, other, strict=True)):
                if text != now:
                    by = next((letter.by for letter in after[line][column].letters if letter.by), None)
                    self.work.edit("cell of a table", place, text, now, by, MADE)

    def _cell(self, cell: Paragraph, unit: Unit | None, came: Paragraph, table: int) -> None:
        if unit is None:
            if cell.text.strip() != came.text.strip():
                self.work.edit(
                    "cell",
                    self.work.source.starts[table],
                    cell.text,
                    came.text,
                    came.by,
                    "the cell is empty in the source",
                )
            return
        known = mapped(cell, unit)
        if known is None:
            if cell.text.strip() != came.text.strip():
                self.work.edit(
                    "cell",
                    unit.start,
                    cell.text,
                    came.text,
                    came.by,
                    "it could not be found in the source letter by letter",
                )
            return
        self.one(Old(Piece([cell]), unit, known), came)

    def _rows_gone(self, before: list[list[Paragraph]], rows: list[list[Unit | None]], gone: list[int]) -> None:
        """Rows that are taken away."""
        for line in gone:
            units = [unit for unit in rows[line] if unit is not None]
            said = " | ".join(cell.text for cell in before[line])
            if not units or line == 0:
                why = "the head of a table, or an empty row, is to be taken out by hand"
                self.work.edit("row taken away", units[0].start if units else 0, said, "", None, why)
                continue
            start = self.text.rfind("\n", 0, units[0].start) + 1
            end = self.text.find("\n", units[-1].end) + 1 or len(self.text)
            edits = [self.work.edit("row taken away", units[0].start, said, "", None)]
            first = self.work.at(units[0])
            self.work.attempt(edits, partial(_gone, start, end), first, first + len(units), [])

    def _rows_new(self, rows: list[list[Unit | None]], after: list[list[Paragraph]], pairs: dict[int, int]) -> None:
        """Rows that are new, in runs behind the same row."""
        known = {back: line for line, back in pairs.items()}
        last: list[Unit] = []
        run: list[list[Paragraph]] = []
        for back, line in enumerate(after):
            if back not in known:
                run.append(line)
                continue
            self._add(last, run)
            run, last = [], [unit for unit in rows[known[back]] if unit is not None] or last
        self._add(last, run)

    def _add(self, last: list[Unit], lines: list[list[Paragraph]]) -> None:
        """New rows behind the one that has the units `last`."""
        if not lines:
            return
        said = [" | ".join(cell.text for cell in line) for line in lines]
        by = [next((cell.by for cell in line if cell.by), None) for line in lines]
        if not last:
            for text, who in zip(said, by, strict=True):
                self.work.edit("new row", 0, "", text, who, "a row above the head of a table is to be written by hand")
            self.work.made.told += [text for line in lines for text in texts_of(line)]
            return
        place = last[-1]
        edits = [self.work.edit("new row", place.start, "", text, who) for text, who in zip(said, by, strict=True)]
        items = [[compare([], [own_letters(cell)]).rows[0] for cell in line] for line in lines]
        wanted = [reading_of(row, [], "cell", 0) for line in items for row in line if row]
        number = self.work.at(place) + 1
        told = [text for line in lines for text in texts_of(line)]
        self.work.attempt(edits, partial(self._written, place, items), number, number, wanted, told)

    def _written(self, place: Unit, items: list[list[list[Item]]], escapes: int) -> list[Patch]:
        """New rows as text, their bars below those of the row that they follow."""
        begin = self.text.rfind("\n", 0, place.start) + 1
        end = self._line_end(place.end)
        if place.row == 0:
            end = self._line_end(end + 1)
        rule, sides = bars(self.text[begin : self._line_end(begin)]), self._sides(place)
        rows = ([written([], self.text, cell, escapes, in_cell=True) for cell in line] for line in items)
        return [Patch(end, end, "".join("\n" + row_text(cells, rule, sides) for cells in rows))]

    def _line_end(self, place: int) -> int:
        end = self.text.find("\n", place)
        return len(self.text) if end < 0 else end

    def _sides(self, unit: Unit) -> list[bool]:
        """Which columns of a table have their words at the right."""
        line = self.work.source.starts[unit.table + 1]
        cells = self.text[line : self.text.find("\n", line)].strip().strip("|").split("|")
        return [cell.strip().endswith(":") and not cell.strip().startswith(":") for cell in cells]


def _gone(start: int, end: int, escapes: int) -> list[Patch]:
    """A stretch taken out, whatever is escaped."""
    return [Patch(start, end, "")]
