"""An office's own workbook with its cells filled: everything else in it stays as it is.

The parts of the package are kept byte by byte but for the sheets that are filled, the looks that filled cells need, and what
formulas had come to before: programs work them out anew when the workbook is opened.
"""

from __future__ import annotations

import posixpath
from bisect import bisect
from collections.abc import Iterator
from html import unescape

from lxml import etree

from wornpage.output.kind import Job, Written
from wornpage.output.ooxml.package import packed, relations_of
from wornpage.output.ooxml.reading import TYPES, Element, leads_in, parsed, serialized, template_fault, template_parts
from wornpage.output.ooxml.xml import escaped
from wornpage.output.xlsx.adding import Formats
from wornpage.output.xlsx.options import XlsxPress
from wornpage.output.xlsx.styles import MAIN
from wornpage.output.xlsx.tables import cells_of
from wornpage.output.xlsx.values import LONGEST, Held, of_result
from wornpage.tree import nodes as n
from wornpage.tree.problem import PageError, Problem, Severity, near_miss
from wornpage.tree.sheetcells import LAST_COLUMN, LAST_ROW, Place, column_of, letters_of, place_of
from wornpage.tree.span import Span
from wornpage.tree.walk import walk

_ = f"{{{MAIN}}}"
_BEFORE_SETTINGS = ("definedNames", "externalReferences", "functionGroups", "sheets")
"""What may stand before the settings for formulas; the last of them that is there does."""
_HINT = "Save it as an Excel workbook (.xlsx)."


def fill(page: n.Composed, job: Job, options: XlsxPress) -> Written:
    """The office's workbook with all that the page puts into it. Raises `PageError`."""
    path = job.folder / options.workbook
    parts = template_parts(path, job.name, _HINT)
    book = _Workbook(parts, path.name, job.name)
    problems: list[Problem] = []
    for span, place, rows in _asked(page):
        try:
            book.put(place_of(place), rows)
        except ValueError as error:
            problems.append(Problem(span, f"{error}.", getattr(error, "hint", "")))
    if problems:
        raise PageError(problems)
    for words, one in job.results.items():
        what, hint = f"{path.name} has no name {words!r} for a value of `press: xlsx: results:`.", ""
        try:
            if book.put_named(words, of_result(one)):
                continue
            hint = near_miss(words, book.names)
        except PlaceFault as error:
            what, hint = f"{error}.", error.hint
        problems.append(Problem(Span(job.name, 1), what, hint, Severity.WARNING))
    return Written(packed(book.written()), tuple(problems), read=(path,))


def _asked(page: n.Composed) -> Iterator[tuple[Span, str, list[list[Held]]]]:
    """What code asks for, in the order of the page: the place, and rows of cells for there."""
    for view in walk(page.blocks):
        if isinstance(view, n.ChunkView):
            for one in view.cells:
                yield view.span, one.place, [[of_result(one)]]
            for table in view.filled:
                yield view.span, table.cell, cells_of(table)


class PlaceFault(ValueError):
    """A place that the workbook does not have."""

    def __init__(self, what: str, hint: str = "") -> None:
        super().__init__(what)
        self.hint = hint


class _Workbook:
    """The parts of a workbook, of which some are changed."""

    def __init__(self, parts: dict[str, bytes], name: str, page: str) -> None:
        self.parts, self.name, self.page = parts, name, page
        try:
            top = parsed(parts["_rels/.rels"])
            self.main = next(target for kind, target, _id in leads_in(top, "") if kind.endswith("/officeDocument"))
            self.book = parsed(parts[self.main])
            self.leads = parsed(parts[relations_of(self.main)])
        except (KeyError, StopIteration, etree.XMLSyntaxError):
            raise template_fault(name, page, "is no workbook.", _HINT) from None
        if self.book.tag != f"{_}workbook":
            raise template_fault(name, page, "is no workbook of the usual kind.", _HINT)
        by_id = {lead: (kind, target) for kind, target, lead in leads_in(self.leads, self.main)}
        key = "{http://schemas.openxmlformats.org/officeDocument/2006/relationships}id"
        self.sheets = {
            str(one.get("name")): by_id[str(one.get(key))][1]
            for one in self.book.iter(f"{_}sheet")
            if one.get(key) in by_id
        }
        self.names = {
            str(one.get("name")): str(one.text)
            for one in self.book.iter(f"{_}definedName")
            if one.get("localSheetId") is None
        }
        styles = next((target for kind, target in by_id.values() if kind.endswith("/styles")), "")
        self.formats = Formats(parts, styles)
        self._open: dict[str, _Sheet] = {}

    def put(self, place: Place, rows: list[list[Held]]) -> None:
        """Put rows of cells where `place` begins. Raises `PlaceFault`."""
        sheet, column, row = self._found(place)
        if row + len(rows) - 1 > LAST_ROW or column + max(map(len, rows), default=1) - 1 > LAST_COLUMN:
            raise PlaceFault("what is put there would go beyond the last cell of the sheet")
        for down, cells in enumerate(rows):
            for across, held in enumerate(cells):
                self._sheet(sheet).put(row + down, column + across, held)

    def put_named(self, name: str, held: Held) -> bool:
        """Put a value into the cell of a name; whether there is one. Raises `PlaceFault`."""
        known = next((one for one in self.names if one.lower() == name.replace(" ", "_").lower()), "")
        if not known:
            return False
        self.put(Place("", 0, 0, known), [[held]])
        return True

    def _found(self, place: Place) -> tuple[str, int, int]:
        if place.name:
            known = next((one for one in self.names if one.lower() == place.name.lower()), "")
            if not known:
                raise PlaceFault(f"{self.name} has no name {place.name!r}", near_miss(place.name, self.names))
            place = self._cell_of(known)
        sheet = place.sheet or next(iter(self.sheets))
        if sheet not in self.sheets:
            hint = near_miss(sheet, self.sheets) or f"It has: {', '.join(self.sheets)}."
            raise PlaceFault(f"{self.name} has no sheet {sheet!r}", hint)
        return sheet, place.column, place.row

    def _cell_of(self, name: str) -> Place:
        """The first cell that a name stands for: it may as well stand for a number, or for cells that were deleted."""
        try:
            place = place_of(self.names[name].split(":")[0])
        except ValueError:
            place = Place("", 0, 0)
        if not place.row:
            raise PlaceFault(f"the name {name!r} of {self.name} stands for no cell, but for {self.names[name]!r}")
        return place

    def _sheet(self, name: str) -> _Sheet:
        if name not in self._open:
            self._open[name] = _Sheet(parsed(self.parts[self.sheets[name]]), self.formats)
        return self._open[name]

    # --- the whole ----------------------------------------------------------------------------

    def written(self) -> dict[str, bytes]:
        """All parts, with what has changed."""
        made = self.parts | self.formats.changed()
        self._forget_results(made)
        self._ask_to_work_out(made)
        self._forget_order(made)
        return made

    def _forget_results(self, parts: dict[str, bytes]) -> None:
        """Sheets anew that have changed, and those whose formulas had come to something."""
        for name, part in self.sheets.items():
            opened = self._open.get(name)
            if opened is None and b"<f" not in parts[part]:
                continue
            root = opened.whole() if opened is not None else parsed(parts[part])
            if _forget_results(root) or opened is not None:
                parts[part] = serialized(root)

    def _ask_to_work_out(self, parts: dict[str, bytes]) -> None:
        """The program that opens the workbook works out its formulas."""
        settings = self.book.find(f"{_}calcPr")
        if settings is None:
            settings = etree.Element(f"{_}calcPr")
            before = (self.book.find(f"{_}{tag}") for tag in _BEFORE_SETTINGS)
            next(one for one in before if one is not None).addnext(settings)
        settings.set("fullCalcOnLoad", "1")
        parts[self.main] = serialized(self.book)

    def _forget_order(self, parts: dict[str, bytes]) -> None:
        """The list of the cells with formulas, in the order that they were worked out in, may name cells that have none now."""
        chain = next((to for kind, to, _id in leads_in(self.leads, self.main) if kind.endswith("/calcChain")), "")
        if not chain:
            return
        parts.pop(chain, None)
        for one in list(self.leads):
            if str(one.get("Type", "")).endswith("/calcChain"):
                self.leads.remove(one)
        parts[relations_of(self.main)] = serialized(self.leads)
        types = parsed(parts["[Content_Types].xml"])
        for one in list(types.iter(f"{TYPES}Override")):
            if posixpath.normpath(str(one.get("PartName", ""))).lstrip("/") == chain:
                types.remove(one)
        parts["[Content_Types].xml"] = serialized(types)


def _forget_results(root: Element) -> bool:
    """Take away what formulas had come to; whether there was any."""
    found = False
    for cell in root.iter(f"{_}c"):
        if cell.find(f"{_}f") is not None:
            value = cell.find(f"{_}v")
            if value is not None:
                cell.remove(value)
                cell.attrib.pop("t", None)
                found = True
    return found


class _Sheet:
    """One sheet, of which cells are changed."""

    def __init__(self, root: Element, formats: Formats) -> None:
        self.root, self.formats = root, formats
        self.data = root.find(f"{_}sheetData")
        self._rows = _Ordered({int(row.get("r")): row for row in self.data if row.get("r")})
        self._cells: dict[int, _Ordered] = {}

    def put(self, row: int, column: int, held: Held) -> None:
        """Change what a cell holds, and not how it looks."""
        cell = self._cell(row, column)
        for inner in list(cell):
            cell.remove(inner)
        cell.attrib.pop("t", None)
        value = held.value
        if value is None:
            return
        if isinstance(value, str):
            cell.set("t", "inlineStr")
            text = etree.SubElement(etree.SubElement(cell, f"{_}is"), f"{_}t")
            text.text = _sound(value[:LONGEST])
            text.set("{http://www.w3.org/XML/1998/namespace}space", "preserve")
            return
        if held.format:
            cell.set("s", str(self.formats.with_format(int(cell.get("s", "0")), held.format)))
        if isinstance(value, bool):
            cell.set("t", "b")
        etree.SubElement(cell, f"{_}v").text = str(int(value)) if isinstance(value, bool) else repr(value)

    def whole(self) -> Element:
        """The sheet, which says of itself as far as its cells go."""
        told = self.root.find(f"{_}dimension")
        corners = [place_of(one) for one in str(told.get("ref")).split(":")] if told is not None else []
        if told is not None and all(one.row for one in corners) and self._cells:
            columns = [*(one.column for one in corners), *(at for cells in self._cells.values() for at in cells.ends)]
            rows = [*(one.row for one in corners), *self._cells]
            first, last = ((edge(columns), edge(rows)) for edge in (min, max))
            told.set("ref", ":".join(f"{letters_of(column)}{row}" for column, row in dict.fromkeys((first, last))))
        return self.root

    def _cell(self, row: int, column: int) -> Element:
        line = self._row(row)
        if row not in self._cells:
            self._cells[row] = _Ordered(
                {column_of(str(one.get("r")).rstrip("0123456789")): one for one in line if one.get("r")}
            )
        return self._cells[row].at(column, line, "c", f"{letters_of(column)}{row}")

    def _row(self, number: int) -> Element:
        return self._rows.at(number, self.data, "row", str(number))


class _Ordered:
    """Rows of a sheet or cells of a row by their numbers, where a new one comes to stand in its order."""

    def __init__(self, there: dict[int, Element]) -> None:
        self._there = there
        self._numbers = sorted(there)

    @property
    def ends(self) -> tuple[int, ...]:
        """The first number and the last."""
        return (self._numbers[0], self._numbers[-1]) if self._numbers else ()

    def at(self, number: int, within: Element, tag: str, name: str) -> Element:
        """The one that has the number; made behind the one before it, if there is none."""
        if number not in self._there:
            made = etree.Element(f"{_}{tag}")
            made.set("r", name)
            place = bisect(self._numbers, number)
            if place:
                self._there[self._numbers[place - 1]].addnext(made)
            else:
                within.insert(0, made)
            self._numbers.insert(place, number)
            self._there[number] = made
        return self._there[number]


def _sound(text: str) -> str:
    """Text without letters that no XML may hold."""
    return unescape(escaped(text))
