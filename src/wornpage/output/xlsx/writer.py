"""A page as a workbook: a first sheet that lists what there is, a sheet for each captioned table, figures if they are wanted."""

from __future__ import annotations

from collections.abc import Iterator

from msgspec import Struct

from wornpage.output.audience import for_output
from wornpage.output.kind import Job, Written
from wornpage.output.ooxml.package import Relations, packed, relations_of, relations_part, types_part
from wornpage.output.ooxml.properties import LEAD, NAME, TYPE, properties
from wornpage.output.ooxml.xml import HEAD, R, escaped
from wornpage.output.outputs import options_in
from wornpage.output.stationery import Stationery, find_stationery
from wornpage.output.xlsx.filling import fill
from wornpage.output.xlsx.grid import Grid
from wornpage.output.xlsx.names import SheetNames, cell_name, quoted
from wornpage.output.xlsx.options import XlsxPress
from wornpage.output.xlsx.pictures import Drawing
from wornpage.output.xlsx.styles import MAIN, Look, Styles
from wornpage.output.xlsx.tables import put_table
from wornpage.output.xlsx.values import Held, of_result
from wornpage.tree import nodes as n
from wornpage.tree.problem import Problem, Severity
from wornpage.tree.walk import walk, words_of

_SHEET = "application/vnd.openxmlformats-officedocument.spreadsheetml."
_MOST_SHEETS = 250


def write_xlsx(page: n.Composed, job: Job) -> Written:
    """The workbook. Raises `PageError` where the office's cannot be used."""
    options: XlsxPress = options_in(job.settings, "xlsx")
    page = for_output(page, "xlsx")
    if options.workbook:
        return fill(page, job, options)
    asked = [view for view in walk(page.blocks) if isinstance(view, n.ChunkView) and (view.cells or view.filled)]
    what = "a chunk fills cells, and no workbook is named whose cells they are."
    hint = "Write `press: {xlsx: {workbook: returns.xlsx}}`."
    problems = tuple(Problem(view.span, what, hint, Severity.WARNING) for view in asked)
    book = Book(page, job, options, find_stationery(job.settings.stationery, job.folder / job.name))
    return Written(packed(book.parts()), (*problems, *book.problems))


class Listed(Struct, frozen=True):
    """A line of the first sheet."""

    name: str
    words: str
    place: str


class Book:
    """One workbook."""

    def __init__(self, page: n.Composed, job: Job, options: XlsxPress, stationery: Stationery) -> None:
        self.page, self.job, self.options, self.language = page, job, options, page.terms
        said = stationery.said
        self.styles = Styles(said.get("xlsx-font", "Calibri"), float(said.get("xlsx-size", "11").removesuffix("pt")))
        self.names = SheetNames()
        self.sheets: list[tuple[str, Grid]] = []
        self.defined: list[str] = []
        self.problems: list[Problem] = []

    # --- sheets -------------------------------------------------------------------------------

    def parts(self) -> dict[str, bytes | str]:
        """All parts of the package."""
        first = Grid(self.styles)
        self.sheets.append((self.names.of(self.language.contents), first))
        tables = list(self._tables())
        figures, drawing = self._figures()
        self._first_sheet(first, [*tables, *figures])
        return self._package(drawing)

    def _tables(self) -> Iterator[Listed]:
        """A sheet for each captioned table, and what is listed of it."""
        found = [node for node in walk(self.page.blocks) if isinstance(node, n.TableBlock) and node.number]
        if len(found) > _MOST_SHEETS:
            what = f"of {len(found)} tables the first {_MOST_SHEETS} are in the workbook."
            self.problems.append(Problem(found[_MOST_SHEETS].span, what, severity=Severity.WARNING))
        for node in found[:_MOST_SHEETS]:
            name = self.names.of(f"{node.word} {node.number}")
            grid = Grid(self.styles)
            caption = words_of(node.caption)
            heads = put_table(grid, node, f"{node.word} {node.number}. {caption}".strip(), self.language)
            at = len(self.sheets)
            self.sheets.append((name, grid))
            if heads.last >= heads.first:
                rows = f"{quoted(name)}!${heads.first}:${heads.last}"
                self.defined.append(
                    f'<definedName name="_xlnm.Print_Titles" localSheetId="{at}">{escaped(rows)}</definedName>'
                )
            yield Listed(name, caption, f"{quoted(name)}!A1")

    def _figures(self) -> tuple[list[Listed], Drawing | None]:
        """A sheet with the figures, if they are wanted, and what is listed of them."""
        found = [node for node in walk(self.page.blocks) if isinstance(node, n.Figure) and node.number]
        if not self.options.figures or not found:
            return [], None
        name, grid = self.names.of(self.language.figures), Grid(self.styles)
        drawing = Drawing([picture for node in found for picture in node.pictures])
        listed = []
        for node in found:
            title = f"{node.word} {node.number}. {words_of(node.caption)}"
            grid.add([(1, Held(title), Look(bold=True))])
            place = f"{quoted(name)}!A{grid.row}"
            listed.append(Listed(f"{node.word} {node.number}", words_of(node.caption), place))
            for picture in node.pictures:
                grid.skip(drawing.put(picture, grid.row))
            grid.skip()
        grid.drawing = '<drawing r:id="rId1"/>'
        self.sheets.append((name, grid))
        return listed, drawing

    def _first_sheet(self, grid: Grid, listed: list[Listed]) -> None:
        head = self.page.head
        title = words_of(head.title) or self.page.plain_title
        grid.add([(1, Held(title), Look(bold=True, size=16))], height=24)
        lines = [words_of(head.subtitle), ", ".join(person.name for person in head.authors), head.date]
        for line in filter(None, lines):
            grid.add([(1, Held(line), Look())])
        grid.wide(1, 14)
        if self.job.results:
            grid.skip()
            self._results(grid)
        if listed:
            grid.skip()
        for one in listed:
            row = grid.add([(1, Held(one.name), Look(is_link=True)), (2, Held(one.words), Look(wraps=True))])
            grid.links.append((f"A{row}", one.place, one.name))
            grid.wide(1, len(one.name))
            grid.wide(2, len(one.words))

    def _results(self, grid: Grid) -> None:
        """Values by their words, in cells that have a name."""
        taken: set[str] = set()
        sheet = quoted(self.sheets[0][0])
        for words, one in self.job.results.items():
            row = grid.add([(1, Held(words), Look()), (2, of_result(one), Look(bold=True, align="left"))])
            grid.wide(1, len(words))
            name = cell_name(words, taken)
            self.defined.append(f'<definedName name="{escaped(name)}">{escaped(f"{sheet}!$B${row}")}</definedName>')

    # --- the package --------------------------------------------------------------------------

    def _package(self, drawing: Drawing | None) -> dict[str, bytes | str]:
        leads, top = Relations("rId"), Relations("rId")
        kinds = {"xl/workbook.xml": f"{_SHEET}sheet.main+xml", "xl/styles.xml": f"{_SHEET}styles+xml", NAME: TYPE}
        parts: dict[str, bytes | str] = {}
        listed = ""
        for at, (name, grid) in enumerate(self.sheets, 1):
            part = f"xl/worksheets/sheet{at}.xml"
            listed += f'<sheet name="{escaped(name)}" sheetId="{at}" r:id="{leads.to("worksheet", f"worksheets/sheet{at}.xml")}"/>'
            kinds[part] = f"{_SHEET}worksheet+xml"
            parts[part] = grid.xml()
            if grid.drawing and drawing is not None:
                own = Relations("rId")
                own.to("drawing", "../drawings/drawing1.xml")
                parts[relations_of(part)] = relations_part(own.xml())
                parts |= drawing.parts()
                kinds["xl/drawings/drawing1.xml"] = "application/vnd.openxmlformats-officedocument.drawing+xml"
        leads.to("styles", "styles.xml")
        defined = f"<definedNames>{''.join(self.defined)}</definedNames>" if self.defined else ""
        book = (
            f'{HEAD}<workbook xmlns="{MAIN}" xmlns:r="{R}"><bookViews><workbookView activeTab="0"/></bookViews>'
            f"<sheets>{listed}</sheets>{defined}</workbook>"
        )
        top.to("officeDocument", "xl/workbook.xml")
        top.to(LEAD, NAME)
        about = properties(self.page.plain_title, self.page.head, self.page.language)
        return {
            "[Content_Types].xml": types_part(kinds), "_rels/.rels": relations_part(top.xml()), NAME: about,
            "xl/workbook.xml": book, relations_of("xl/workbook.xml"): relations_part(leads.xml()), "xl/styles.xml": self.styles.xml(), **parts,
        }  # fmt: skip
