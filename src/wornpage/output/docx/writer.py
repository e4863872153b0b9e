"""A composed page as a document: blocks as native paragraphs, tables, drawings and fields."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import assert_never

from wornpage.output.at_end import without_floats
from wornpage.output.audience import for_output
from wornpage.output.bounds import bounded
from wornpage.output.docx import code
from wornpage.output.docx.carrying import Carrier, carried_in, remember
from wornpage.output.docx.dress import Dress, dress_for
from wornpage.output.docx.looks import looks_of
from wornpage.output.docx.numbering import NOWHERE, Place, indent
from wornpage.output.docx.options import DocxPress
from wornpage.output.docx.pictures import Pictures
from wornpage.output.docx.places import Bookmarks, bookmark
from wornpage.output.docx.remarks import Remarks, remarks_for
from wornpage.output.docx.running import Running
from wornpage.output.docx.sections import Sections
from wornpage.output.docx.tables import Table, is_wide
from wornpage.output.docx.title import Titles
from wornpage.output.docx.xml import PLAIN, Look, Properties, field, paragraph, twips
from wornpage.output.kind import Job, Written
from wornpage.output.left_out import left_out
from wornpage.output.ooxml.formulas import equation
from wornpage.output.ooxml.package import Relations, packed
from wornpage.output.outputs import options_in
from wornpage.output.pointing import goals_of
from wornpage.output.sharing import shares
from wornpage.output.stationery import find_stationery
from wornpage.source.comments import side_file
from wornpage.tree import nodes as n
from wornpage.tree.problem import Problem, Severity
from wornpage.tree.walk import walk, words_of

NARROWEST = 7.5
"""Points: a table that would need smaller letters goes across all columns, or on a sheet that is turned."""
_GUTTER = 0.5
"""Centimetres between things side by side."""
_QUOTED = 340
"""Twips by which quotations stand in."""
_SIDES = {"left": "left", "right": "right", "centre": "center"}
_ROOM_BELOW = {"BodyText", "ListBullet", "ListNumber", "ListContinue", "Quote", "Meaning", "Term", "Abstract"}
"""Styles without room above them, which they need after a table."""


def write_docx(page: n.Composed, job: Job) -> Written:
    """The document. Raises `PageError` for a template or looks that cannot be used."""
    options: DocxPress = options_in(job.settings, "docx")
    page, cut = bounded(for_output(page, "docx"), "document")
    stationery = find_stationery(job.settings.stationery, job.folder / job.name)
    dress = dress_for(page, job, options, looks_of(stationery), stationery)
    path = job.folder / Path(job.name).name
    remarks = remarks_for(path, job.source) if not dress.has_comments else Remarks()
    writer = DocumentWriter(page, dress, options, Carrier(job.name, options.source and bool(job.source), remarks.at))
    writer.write()
    parts = dress.with_remarks(writer.parts(), remarks)
    if writer.carrier.is_on:
        parts = dress.carrying(parts, Path(job.name).name, job.source)  # wherever it lies: the same bytes
        remember(path, carried_in(parts))
    return Written(packed(parts), (*cut, *dress.problems, *writer.problems), read=(*dress.read, side_file(path)))


class DocumentWriter:
    """Writes the body and the notes; one method a node. A block is a list of paragraphs and tables."""

    def __init__(self, page: n.Composed, dress: Dress, options: DocxPress, carrier: Carrier) -> None:
        self.carrier = carrier
        self.page, self.dress, self.options = page, dress, options
        self.looks, self.language, self.ids = dress.looks, page.terms, dress.ids
        self.problems: list[Problem] = []
        self.pictures = Pictures(_pictures_of(page), dress.first_drawing)
        self.bookmarks = Bookmarks(dress.first_bookmark)
        self.goals = goals_of((*page.blocks, *page.head.abstract))
        self.body, self.notes_text = self._running(), self._running()
        self.notes_text.takes_comments = False
        self.running = self.body
        self.sections = Sections(dress.sheet)
        self.calls = Counter(node.number for node in walk(page.blocks) if isinstance(node, n.Footnote))
        self.notes: dict[int, str] = {}
        self.style = "BodyText"
        """That of plain paragraphs where we are."""
        self.indent, self.depth = 0, -1
        """Twips from the edge, and the level of the list around us; -1 outside of all."""
        self.new_sheet, self.after_table, self.in_appendix, self.in_note = False, False, False, False
        self.is_following = False
        """Whether a plain paragraph stands just before."""

    def _running(self) -> Running:
        rtl = self.language.right_to_left
        links = Relations(self.dress.relations_from)
        made = Running(
            self.ids, self.goals, self.bookmarks, self.pictures, links, self.note, self.raw, self.carrier, rtl
        )
        made.room = self.dress.sheet.column
        return made

    # --- the whole ----------------------------------------------------------------------------

    def write(self) -> None:
        """All of the body, section by section."""
        page, titles = self.page, Titles(self)
        opening = titles.written()
        if self.options.contents and page.contents:
            opening += self.contents_titled(page.contents)
        self.sections.add(opening)
        if self.dress.sheet.columns > 1:
            self.sections.end(columns=1)
        elif titles.has_own_sheet:
            self.new_sheet = True
        blocks, moved = page.blocks, list[n.Block]()
        if self.options.figures == "at-end":
            blocks, moved = without_floats(page.blocks, self.language)
        self.top(blocks)
        for block in moved:
            self.new_sheet = True
            self.top((block,))

    def parts(self) -> dict[str, bytes | str]:
        """All parts of the package."""
        return self.dress.parts(
            self.sections.xml(self.gap), self.notes, self.pictures.files, self.body.relations, self.notes_text.relations
        )

    def top(self, blocks: n.Blocks) -> None:
        """Blocks of the page's own level; what is too wide for a column has a section of its own."""
        for block in blocks:
            if isinstance(block, n.ChunkView) or (isinstance(block, n.Container) and block.chosen):
                self.top(block.blocks)
            elif (wide := self.breadth(block)) is not None:
                columns, turned = wide
                self.sections.end(columns=self.dress.sheet.columns)
                self.new_sheet = self.after_table = False
                outer, self.running.room = self.running.room, self.dress.sheet.room(turned)
                self.sections.add(self.block(block))
                self.running.room = outer
                self.after_table = False
                self.sections.end(columns=columns, turned=turned)
            else:
                self.sections.add(self.block(block))

    def breadth(self, block: n.Block) -> tuple[int, bool] | None:
        """Columns, and whether the sheet is turned, for what does not stand in a column; None for anything else."""
        sheet = self.dress.sheet
        if isinstance(block, n.Figure) and block.number and sheet.columns > 1:
            is_large = len(block.pictures) > 1 or any(one.width > sheet.column * 1.1 for one in block.pictures)
            return (1, False) if is_large else None
        if (
            not isinstance(block, n.TableBlock)
            or not block.table.aligns
            or not is_wide(block.table, sheet.column, NARROWEST)
        ):
            return None
        if sheet.columns > 1 and not is_wide(block.table, sheet.room(turned=False), NARROWEST):
            return 1, False
        return (1, True) if sheet.room(turned=True) > sheet.room(turned=False) else None

    def note(self, node: n.Footnote) -> str:
        """The call of a note; the first one makes it."""
        if self.in_note:  # notes of notes are not to be had
            return self.running.text(" (") + self.running.words(_as_words(node.blocks)) + self.running.text(")")
        kind = "endnote" if self.options.notes == "end" else "footnote"
        name = f"note_{node.number}"
        style = self.ids[f"{kind.title()}Reference"]
        look = Look(style=style).properties()
        if node.number in self.notes:
            return field(f"NOTEREF {name} \\f \\h", self.running.text(str(node.number), Look(style=style)), look)
        self.notes[node.number] = ""
        self.notes[node.number] = self.note_body(node, kind)
        call = f'<w:r>{look}<w:{kind}Reference w:id="{self.dress.notes_before + len(self.notes)}"/></w:r>'
        return self.bookmarks.around(name, call) if self.calls[node.number] > 1 else call

    def note_body(self, node: n.Footnote, kind: str) -> str:
        """What a note says, its number first."""
        outer = (self.running, self.style, self.indent, self.depth, self.new_sheet, self.after_table)
        self.running, self.style, self.indent, self.depth = self.notes_text, f"{kind.title()}Text", 0, -1
        self.new_sheet = self.after_table = False
        self.in_note = True
        number = f"<w:r>{Look(style=self.ids[f'{kind.title()}Reference']).properties()}<w:{kind}Ref/></w:r>{self.running.text(' ')}"
        first, rest = (
            (node.blocks[0], node.blocks[1:])
            if node.blocks and isinstance(node.blocks[0], n.Paragraph)
            else (None, node.blocks)
        )
        words = self.running.block(first.children) if isinstance(first, n.Paragraph) else ""
        made = paragraph(number + words, self.told(self.style)) + self.cell(rest, may_be_empty=True)
        self.in_note = False
        self.running, self.style, self.indent, self.depth, self.new_sheet, self.after_table = outer
        return made

    def raw(self, node: n.RawHtmlInline | n.RawHtmlBlock) -> None:
        """A tag for HTML alone is left out, and that is said."""
        problem = left_out(node.span, node.html, "document")
        if problem is not None and problem not in self.problems:
            self.problems.append(problem)

    # --- paragraphs ---------------------------------------------------------------------------

    def told(self, style: str) -> Properties:
        """What a paragraph in a style says where we are."""
        made = Properties(pStyle=f'w:val="{self.ids[style]}"')
        if self.new_sheet:
            made.add("pageBreakBefore")
        if self.after_table and style in _ROOM_BELOW:
            made.add("spacing", 'w:before="160"')
        self.new_sheet = self.after_table = self.is_following = False
        if self.indent and style not in {"Caption", "Figure", "TableNote"}:
            own = _QUOTED if style == "Quote" else 0
            if self.indent != own:
                made.add("ind", f'w:left="{self.indent}"')
        return made

    def plain(self, inner: str, style: str = "") -> list[str]:
        """A paragraph; one that follows another stands in, where the looks say so."""
        style = style or self.style
        follows = style == "BodyText" and self.looks.lines.first and self.is_following
        made = [paragraph(inner, self.told("BodyTextFirstIndent" if follows else style))]
        self.is_following = style == "BodyText"
        return made

    def gap(self, more: str = "") -> str:
        """A paragraph that holds nothing and is hardly seen, where the format wants one."""
        told = self.told("Gap")
        return paragraph("", told.add("sectPr", more) if more else told)

    def cell(self, blocks: n.Blocks, may_be_empty: bool = False) -> str:
        """Blocks inside something that must end with a paragraph."""
        made = self.blocks(blocks)
        if (not made and not may_be_empty) or (made and made[-1].startswith("<w:tbl>")):
            made.append(self.gap())
        return "".join(made)

    def table(self, xml: str) -> list[str]:
        """A table, with something between it and one just before it."""
        before = [self.gap()] if self.after_table or self.new_sheet else []
        self.after_table = True
        return [*before, xml]

    # --- blocks -------------------------------------------------------------------------------

    def blocks(self, blocks: Iterable[n.Block]) -> list[str]:
        """All of them in order."""
        return [piece for block in blocks for piece in self.block(block)]

    def block(self, node: n.Block) -> list[str]:
        """One block."""
        match n.composed_block(node):
            case n.Heading() as it:
                return self.heading(it)
            case n.PartTitle() as it:
                return self.part(it)
            case n.Paragraph(children=children):
                return self.plain(self.running.block(children))
            case n.Quote(blocks=blocks):
                return self.within("Quote", _QUOTED, blocks)
            case n.List() as it:
                return self.items(it)
            case n.Definitions(entries=entries):
                return [piece for entry in entries for piece in self.definition(entry)]
            case n.Rule():
                return self.plain("", "Rule")
            case n.RawHtmlBlock() as raw:
                self.raw(n.RawHtmlInline(raw.span, raw.html))
                return []
            case n.Container() as it:
                return self.container(it)
            case n.ChunkView(blocks=blocks):
                return self.blocks(blocks)
            case n.CodeBlock() as it:
                return self.listing(it)
            case n.OutputText() as it:
                return [code.output(self.running, it, self.told)]
            case n.Figure() as it:
                return self.figure(it)
            case n.TableBlock() as it:
                return self.tabled(it)
            case n.MathBlock() as it:
                return self.formula(it)
            case n.RichHtml(text=text):
                return [code.output(self.running, n.OutputText(node.span, text, "output"), self.told)]
            case n.ContentsList(entries=entries, kind=kind):
                return self.contents(entries, kind)
            case n.AppendixBreak() | n.SlideBreak():
                self.in_appendix = True
                return []
            case n.AboutHere(words=words):
                return self.plain(self.running.text(words), "AboutHere")
            case n.IndexList() as it:
                return [line for entry in it.entries for line in self.index_entry(entry, "Index1")]
            case n.ReferenceList(entries=references):
                return [piece for one in references for piece in self.reference(one)]
            case n.SheetBreak():
                self.new_sheet = True
                return []
            case never:
                assert_never(never)

    def within(self, style: str, further: int, blocks: n.Blocks) -> list[str]:
        """Blocks that stand further in, plain paragraphs in a style of their own."""
        outer = self.style, self.indent
        self.style, self.indent = style, self.indent + further
        made = self.blocks(blocks)
        self.style, self.indent = outer
        return made

    def heading(self, node: n.Heading) -> list[str]:
        """A heading; its number is counted by the program that opens the document."""
        level = min(node.level, 6)
        told = self.told(f"Heading{level}")
        if node.number:
            place = self.dress.numbering.heading(node.level, node.number, self.in_appendix)
            if place.list != self.dress.numbering.headings and not (self.dress.keeps_numbers and not self.in_appendix):
                told.add("numPr", place.xml())
        elif self.dress.has_numbers:
            told.add("numPr", NOWHERE.xml()).add("ind", 'w:left="0" w:firstLine="0"')
        words = self.running.block(node.children)
        return [paragraph(self.bookmarks.around(bookmark(node.label), words), told)]

    def part(self, node: n.PartTitle) -> list[str]:
        """Where a part of a volume begins: on a sheet of its own."""
        self.new_sheet = True
        number = f"{node.word}\u00a0{node.number}\u2002" if node.number else ""
        words = self.running.text(number) + self.running.words(node.children)
        made = [paragraph(self.bookmarks.around(bookmark(node.label), words), self.told("PartTitle"))]
        self.new_sheet = True
        return made

    def definition(self, node: n.Definition) -> list[str]:
        """A term and what it means."""
        made = self.plain(self.running.block(node.term), "Term")
        for meaning in node.meanings:
            made += self.within("Meaning", 425, meaning)
        return made

    # --- lists --------------------------------------------------------------------------------

    def items(self, node: n.List) -> list[str]:
        """A list; each numbered one counts by itself."""
        self.depth += 1
        numbering = self.dress.numbering
        numbers = numbering.numbers(self.depth, node.start) if node.ordered else None
        made: list[str] = []
        for item in node.items:
            if item.done is not None:
                place = numbering.task(self.depth, item.done)
            else:
                place = numbers or numbering.bullets(self.depth)
            made += self.item(item, place, node.ordered, node.tight)
        self.depth -= 1
        return made

    def item(self, node: n.Item, place: Place, ordered: bool, tight: bool) -> list[str]:
        """Its first paragraph has the sign or the number; the rest stands below its words."""
        blocks = node.blocks
        first = blocks[0] if blocks and isinstance(blocks[0], n.Paragraph) else None
        told = self.told("ListNumber" if ordered else "ListBullet").add("numPr", place.xml())
        step = indent(0)
        if (self.indent and self.depth == 0) or self.indent:
            told.add("ind", f'w:left="{self.indent + step}" w:hanging="{step}"')
        if tight:
            told.add("contextualSpacing")
        made = [paragraph(self.running.block(first.children) if first else "", told)]
        outer = self.style, self.indent
        self.style, self.indent = "ListContinue", self.indent + step
        made += self.blocks(blocks[1:] if first else blocks)
        self.style, self.indent = outer
        return made

    # --- boxes --------------------------------------------------------------------------------

    def container(self, node: n.Container) -> list[str]:
        """A box, or things side by side."""
        if node.chosen:
            return self.blocks(node.blocks)
        label = node.attributes.label
        if node.kind == "side-by-side":
            return self.beside(shares(node), [(block,) for block in node.blocks])
        style = "CautionBox" if node.kind == "caution" else "Box"
        outer = self.style, self.indent, self.running.room, self.depth
        before = [self.gap()] if self.after_table or self.new_sheet else []
        self.style, self.indent, self.depth = "BodyText", 0, -1
        self.running.room = outer[2] - 0.8
        title = self.running.words(node.title)
        shown = (
            [paragraph(self.bookmarks.around(bookmark(label) if label else "", title), self.told("BoxTitle"))]
            if title
            else []
        )
        inner = "".join(shown) + self.cell(node.blocks, may_be_empty=bool(shown))
        self.style, self.indent, self.running.room, self.depth = outer
        self.after_table = True
        width = twips(outer[2])
        return [*before, _layout(self.ids[style], [width], [inner], self.indent)]

    def beside(self, widths: tuple[float, ...], blocks: list[n.Blocks]) -> list[str]:
        """Blocks beside each other."""
        before = [self.gap()] if self.after_table or self.new_sheet else []
        whole = self.running.room
        tracks = [whole * width / sum(widths) for width in widths]
        cells = []
        for track, inside in zip(tracks, blocks, strict=True):
            self.running.room = track - _GUTTER
            cells.append(self.cell(inside))
            self.after_table = False
        self.running.room = whole
        self.after_table = True
        return [*before, _layout(self.ids["Columns"], [twips(track) for track in tracks], cells, self.indent)]

    # --- code, figures, tables ----------------------------------------------------------------

    def listing(self, node: n.CodeBlock) -> list[str]:
        """Code, with its caption above it."""
        above = []
        if node.label:
            above = [self.caption(node.word, node.number, node.caption, node.label, keeps=True)]
        return [*above, *code.code(self.running, node, self.looks.colours.picked, self.told)]

    def caption(
        self, word: str, number: str, words: n.Inlines, label: str, keeps: bool = False, side: str = "left"
    ) -> str:
        """A caption whose number counts by itself, with what pointers need."""
        told = self.told("Caption")
        if keeps:
            told.add("keepNext")
        if side != "left":
            told.add("jc", f'w:val="{_SIDES.get(side, "left")}"')
        bold = Look(bold=True)
        shown = ""
        if number:
            counted = self.counted(_identifier(word), number, bold)
            inner = self.running.text(f"{word}\u00a0", bold) + self.bookmarks.around(bookmark(label, "num"), counted)
            shown = self.bookmarks.around(bookmark(label, "ref"), inner)
            shown = self.bookmarks.around(bookmark(label), shown)
        between = self.running.text("\u2002") if shown and words else ""
        return paragraph(shown + between + self.running.block(words), told)

    def counted(self, kind: str, number: str, look: Look = PLAIN) -> str:
        """A number that counts by itself; one such as 3.2 anew in each chapter, whose number stands before it."""
        chapter, _, own = number.rpartition(".")
        within = " \\s 1" if chapter else ""
        within += " \\r 1" if chapter and own == "1" else ""  # programs that do not know `\s` begin anew there, too
        made = field(f"SEQ {kind} \\* ARABIC{within}", self.running.text(own, look), look.properties())
        if not chapter:
            return made
        before = field("STYLEREF 1 \\s", self.running.text(chapter, look), look.properties())
        return before + self.running.text(".", look) + made

    def figure(self, node: n.Figure) -> list[str]:
        """Its pictures, the caption below."""
        shown = [picture for picture in node.pictures if self.pictures.can_show(picture)]
        side = _SIDES.get(node.align, "center")
        made: list[str] = []
        if len(shown) > 1:
            made = self.side_by_side(shown)
        elif shown:
            told = self.told("Figure").add("jc", f'w:val="{side}"')
            if not node.number:
                told.add("keepNext", 'w:val="0"')
            drawing = self.pictures.drawing(
                shown[0], self.running.relations, self.running.room, self.dress.sheet.tallest
            )
            name = bookmark(node.label) if node.label and not node.number else ""
            made = [paragraph(self.bookmarks.around(name, drawing), told)]
        for lost in (picture for picture in node.pictures if picture not in shown):
            made += self.plain(self.running.text(f"[{lost.alt}]", Look(italic=True)), "Figure")
            what = "a drawing here is damaged, so that the document has words in its place."
            self.problems.append(Problem(node.span, what, severity=Severity.WARNING))
        if node.number:
            made.append(self.caption(node.word, node.number, node.caption, node.label, side=node.align))
        return made

    def side_by_side(self, pictures: list[n.Picture]) -> list[str]:
        """Parts of a figure, two in a row, each with its letter below."""
        half = self.running.room / 2
        cells = []
        for picture in pictures:
            drawing = self.pictures.drawing(picture, self.running.relations, half - 0.4, self.dress.sheet.tallest)
            below = paragraph(self.running.text(f"({picture.letter})"), self.told("Figure")) if picture.letter else ""
            cells.append(paragraph(drawing, self.told("Figure")) + below)
        rows = [cells[at : at + 2] for at in range(0, len(cells), 2)]
        before = [self.gap()] if self.after_table or self.new_sheet else []
        self.after_table = True
        return [*before, _layout(self.ids["Columns"], [twips(half)] * 2, rows, 0)]

    def tabled(self, node: n.TableBlock) -> list[str]:
        """A table, the caption above it and notes below."""
        made = []
        if node.number:
            made.append(self.caption(node.word, node.number, node.caption, node.label, keeps=True, side=node.align))
            self.after_table = False
        alt = words_of(node.caption)
        table = Table(self.running, node.table, self.running.room, self.looks.letters.table, self.language.decimal, alt)
        parts = table.parts() if node.table.aligns else []
        for part in parts:
            made += self.table(part)
        notes = table.notes()
        for at, words in enumerate(notes, 1):
            told = self.told("TableNote").add("ind", f'w:left="{table.lead}"')
            made.append(paragraph(words, told.add("spacing", _ROOM_AFTER) if at == len(notes) else told))
        return made

    def formula(self, node: n.MathBlock) -> list[str]:
        """A formula on a line of its own; a number stands at the edge, in a row of its own table."""
        display = f"<m:oMathPara>{equation(node.formula)}</m:oMathPara>"
        if not node.number:
            return self.plain(self.bookmarks.around(bookmark(node.label) if node.label else "", display), "Equation")
        edge, whole = 900, twips(self.running.room)
        word = _identifier(self.language.equation[0])
        counted = self.bookmarks.around(bookmark(node.label, "num"), self.counted(word, node.number))
        shown = self.bookmarks.around(bookmark(node.label), self.running.text("(") + counted + self.running.text(")"))
        before = [self.gap()] if self.after_table or self.new_sheet else []
        told = [self.told("Equation") for _ in range(3)]
        cells = [
            paragraph("", told[0]),
            paragraph(display, told[1]),
            paragraph(shown, told[2].add("jc", 'w:val="right"')),
        ]
        self.after_table = True
        return [*before, _layout(self.ids["Columns"], [edge, whole - 2 * edge, edge], cells, 0, middle=True)]

    # --- lists of what there is ---------------------------------------------------------------

    def reference(self, entry: n.Reference) -> list[str]:
        """An entry of the list of references."""
        label = self.running.words(entry.label)
        words = (label + self.running.text("\t") if label else "") + self.running.words(entry.words)
        return self.plain(self.bookmarks.around(bookmark(entry.anchor), words), "Bibliography")

    def index_entry(self, entry: n.IndexEntry, style: str) -> list[str]:
        """A term with the sheets that it is named on, and the narrower ones below it."""
        words, running = self.language.volume, self.running
        shown = running.text(entry.words)
        for one in entry.places:
            shown += running.text(", ") + field(f"PAGEREF {bookmark(one.label)} \\h", running.text(one.said))
        for word, other in [(words["see"], one) for one in entry.see] + [(words["also"], one) for one in entry.also]:
            shown += running.text(", ") + running.text(word, Look(italic=True)) + running.text(f" {other}")
        below = [line for one in entry.narrower for line in self.index_entry(one, "Index2")]
        return [*self.plain(shown, style), *below]

    def contents_titled(self, entries: tuple[n.ContentsEntry, ...]) -> list[str]:
        """The contents with a heading."""
        told = self.told("TOCHeading")
        if self.dress.has_numbers:  # in a template it may rest on a style that has them
            told.add("numPr", NOWHERE.xml()).add("ind", 'w:left="0" w:firstLine="0"')
        return [paragraph(self.running.text(self.language.contents), told), *self.contents(entries, "contents")]

    def contents(self, entries: tuple[n.ContentsEntry, ...], kind: str) -> list[str]:
        """A list that is there at once, and that can be brought up to date with the numbers of sheets."""
        if not entries:
            return []
        words = {"figures": self.language.figure[0], "tables": self.language.table[0]}
        is_contents = kind not in words
        carries, self.carrier.is_on = self.carrier.is_on, False  # what they repeat is written elsewhere
        command = 'TOC \\o "1-3" \\h \\z \\u' if is_contents else f'TOC \\h \\z \\c "{_identifier(words[kind])}"'
        lines = []
        for entry in entries:
            told = self.told(f"TOC{min(entry.level, 6)}" if is_contents else "TableofFigures")
            number = self.running.text(f"{entry.number}\u2003" if entry.number else "")
            inner = number + self.running.words(entry.children)
            lines.append((f'<w:hyperlink w:anchor="{bookmark(entry.label)}" w:history="1">{inner}</w:hyperlink>', told))
        self.carrier.is_on = carries
        opening = (
            '<w:r><w:fldChar w:fldCharType="begin"/></w:r>'
            f'<w:r><w:instrText xml:space="preserve"> {command} </w:instrText></w:r><w:r><w:fldChar w:fldCharType="separate"/></w:r>'
        )
        lines[0] = (opening + lines[0][0], lines[0][1])
        lines[-1] = (lines[-1][0] + '<w:r><w:fldChar w:fldCharType="end"/></w:r>', lines[-1][1])
        return [paragraph(inner, told) for inner, told in lines]


def _layout(
    style: str, widths: list[int], cells: list[str] | list[list[str]], further: int, middle: bool = False
) -> str:
    """A table that only sets things side by side; rows of cells, or the cells of one row."""
    rows = [cells] if not cells or isinstance(cells[0], str) else cells
    grid = "".join(f'<w:gridCol w:w="{width}"/>' for width in widths)
    across = '<w:vAlign w:val="center"/>' if middle else ""
    made = ""
    for row in rows:
        spans = len(widths) - len(row)
        told = ""
        for at, cell in enumerate(row):
            more = f'<w:gridSpan w:val="{spans + 1}"/>' if spans and at == len(row) - 1 else ""
            width = sum(widths[at:]) if more else widths[at]
            told += f'<w:tc><w:tcPr><w:tcW w:w="{width}" w:type="dxa"/>{more}{across}</w:tcPr>{cell}</w:tc>'
        made += f"<w:tr><w:trPr><w:cantSplit/></w:trPr>{told}</w:tr>" if middle else f"<w:tr>{told}</w:tr>"
    aside = f'<w:tblInd w:w="{further}" w:type="dxa"/>' if further else ""
    return (
        f'<w:tbl><w:tblPr><w:tblStyle w:val="{style}"/><w:tblW w:w="{sum(widths)}" w:type="dxa"/>{aside}<w:tblLayout w:type="fixed"/>'
        '<w:tblLook w:val="0000" w:firstRow="0" w:lastRow="0" w:firstColumn="0" w:lastColumn="0" w:noHBand="1" w:noVBand="1"/>'
        f"</w:tblPr><w:tblGrid>{grid}</w:tblGrid>{made}</w:tbl>"
    )


_ROOM_AFTER = 'w:after="180"'
"""Twips below the last of several small lines."""


def _identifier(word: str) -> str:
    """The name of a sequence: one word."""
    return "_".join(word.split()) or "Item"


def _as_words(blocks: n.Blocks) -> n.Inlines:
    """The running text of blocks, one after the other."""
    return tuple(child for block in blocks if isinstance(block, n.Paragraph) for child in block.children)


def _pictures_of(page: n.Composed) -> Iterator[n.Picture]:
    head = page.head
    for node in walk((*page.blocks, *head.title, *head.subtitle, *head.abstract)):
        if isinstance(node, n.Figure):
            yield from node.pictures
        elif isinstance(node, n.InlinePicture):
            yield node.picture
