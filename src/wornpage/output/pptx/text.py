"""Running text and paragraphs of a slide, and any block as paragraphs for where nothing but text can stand."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import assert_never

from msgspec import Struct
from msgspec.structs import replace

from wornpage.output.left_out import left_out
from wornpage.output.links import is_safe
from wornpage.output.ooxml.formulas import equation
from wornpage.output.ooxml.package import Relations
from wornpage.output.ooxml.xml import escaped
from wornpage.output.pptx.drawingml import BARE, BULLET, Face, Lines, numbered
from wornpage.output.pptx.own import CODE_FONT
from wornpage.tree import nodes as n
from wornpage.tree.formula import Formula
from wornpage.tree.language import Language
from wornpage.tree.linear import linear
from wornpage.tree.problem import Problem, Severity
from wornpage.tree.span import Span
from wornpage.tree.walk import rewrite

INDENT = 36.0
"""Points that each level of a list stands in, outside of placeholders."""


class Paragraph(Struct, frozen=True):
    """One paragraph, and the step that it comes with."""

    xml: str
    step: int = 0
    has_formula: bool = False
    is_formula: bool = False
    """Whether it holds one formula, and nothing else."""
    plain: str = ""
    """The same without formulas, for programs that know none."""


class Text:
    """Writes text of one slide; `held` says whether it stands in a placeholder, which has looks of its own."""

    def __init__(
        self, language: str, terms: Language, relations: Relations, slide_of: Callable[[str], str], held: bool, size: float,
        problems: list[Problem], ink: str = "",
    ) -> None:  # fmt: skip
        self.language, self.terms, self.relations, self.slide_of = language, terms, relations, slide_of
        self.held, self.size, self.problems = held, size, problems
        self.ink = ink
        """The colour of letters that stand in no placeholder; empty for the theme's."""
        self.notes: dict[int, n.Footnote] = {}
        self.pictures: list[n.InlinePicture] = []
        """Pictures that stand among words; no text can hold them here, and they stand below."""
        self.formulas = True
        """Whether formulas are written as such."""

    # --- running text -------------------------------------------------------------------------------

    def runs(self, inlines: Iterable[n.Inline], face: Face) -> str:
        return "".join(self.run(node, face) for node in inlines)

    def letters(self, text: str, face: Face) -> str:
        """Letters in one look."""
        if not text:
            return ""
        return f"<a:r>{face.properties('a:rPr', self.language)}<a:t>{escaped(text)}</a:t></a:r>"

    def run(self, node: n.Inline, face: Face) -> str:
        match n.composed_inline(node):
            case n.Text(text=text):
                return self.letters(text, face)
            case n.Emphasis(children=children):
                return self.runs(children, replace(face, italic=not face.italic))
            case n.Strong(children=children):
                return self.runs(children, replace(face, bold=True))
            case n.Strike(children=children):
                return self.runs(children, replace(face, strike=True))
            case n.Raised(children=children, below=below):
                return self.runs(children, replace(face, raised=-25 if below else 30))
            case n.SmallCaps(children=children):
                return self.runs(children, replace(face, small_caps=True))
            case n.Superscript(text=text):
                return self.letters(text, replace(face, raised=30))
            case n.Code(text=text):
                return self.letters(text, replace(face, font=CODE_FONT))
            case n.Answered(children=children) | n.Citation(children=children):
                return self.runs(children, face)
            case n.Link() as link:
                return self.link(link, face)
            case n.SoftBreak():
                return self.letters(" ", face)
            case n.HardBreak():
                return "<a:br/>"
            case n.Math(formula=formula):
                return self.formula(formula, face)
            case n.InlinePicture() as shown:
                self.pictures.append(shown)
                return ""
            case n.Footnote(number=number) as note:
                self.notes.setdefault(number, note)
                return self.letters(str(number), replace(face, raised=30))
            case n.Anchor():
                return ""
            case n.RawHtmlInline(html=html):
                if html.lower().startswith("<br"):
                    return "<a:br/>"
                self.tell(left_out(node.span, html, "presentation"))
                return ""
            case never:
                assert_never(never)

    def link(self, node: n.Link, face: Face) -> str:
        if node.to:
            target = self.slide_of(node.to)
            if not target:
                return self.runs(node.children, face)
            return self.runs(node.children, replace(face, link=self.relations.to("slide", target), jump=True))
        if not node.address or not is_safe(node.address) or node.address.startswith("#"):
            return self.runs(node.children, face)
        return self.runs(node.children, replace(face, link=self.relations.address(node.address)))

    def formula(self, formula: Formula, face: Face) -> str:
        if not self.formulas:
            return self.letters(linear(formula), face)
        colour = face.colour if len(face.colour) == 6 else ""
        return f"<a14:m>{equation(formula, in_drawing=True, colour=colour)}</a14:m>"

    # --- paragraphs ---------------------------------------------------------------------------------

    def paragraph(self, inlines: n.Inlines, lines: Lines, face: Face, step: int = 0) -> Paragraph:
        """One paragraph; an empty one keeps its line."""
        told = replace(lines, rtl=self.terms.right_to_left)
        made = self.runs(inlines, face)
        has_formula = "<a14:m>" in made
        self.formulas = False
        plain = self.runs(inlines, face) if has_formula else ""
        self.formulas = True
        end = face.properties("a:endParaRPr", self.language)

        def whole(inner: str) -> str:
            return f"<a:p>{told.xml()}{inner}{end}</a:p>"

        is_formula = len(inlines) == 1 and isinstance(inlines[0], n.Math)
        return Paragraph(whole(made), step, has_formula, is_formula, whole(plain) if has_formula else "")

    def blocks(
        self, blocks: Iterable[n.Block], level: int = 0, step: int = 0, face: Face | None = None
    ) -> list[Paragraph]:
        """The paragraphs of blocks; what is no text stands in words, a line for each of code, a row of a table."""
        face = face or self.face()
        made: list[Paragraph] = []
        for block in blocks:
            made += self.block(block, level, step, face)
        return made

    def face(self) -> Face:
        """The look of running text: that of the placeholder, or of its own."""
        return Face() if self.held else Face(size=self.size)

    def at(self, level: int, mark: str = BARE) -> Lines:
        """How a paragraph at a level of lists stands, or one that is no item."""
        if mark == BARE:
            return Lines(mark=BARE, left=INDENT * level, before=8)
        if self.held:
            return Lines(level=level - 1, mark="" if mark == BULLET else mark)
        return Lines(mark=mark, left=INDENT * level, first=-INDENT * 0.75, before=6)

    def block(self, block: n.Block, level: int, step: int, face: Face) -> list[Paragraph]:
        def one(words: n.Inlines, own: Face = face) -> Paragraph:
            return self.paragraph(words, self.at(level), own, step)

        match n.composed_block(block):
            case n.Paragraph(children=children):
                return [one(children)]
            case n.Heading() as it:
                number = f"{it.word} {it.number}" if it.word else it.number
                words = (n.Text(it.span, f"{number}  "), *it.children) if number else it.children
                return [one(words, replace(face, bold=True))]
            case n.List() as it:
                return self.items(it, level + 1, step, face)
            case n.Definitions(entries=entries):
                made = []
                for entry in entries:
                    made.append(one(entry.term, replace(face, bold=True)))
                    for meaning in entry.meanings:
                        made += self.blocks(meaning, level + 1, step, face)
                return made
            case n.Quote(blocks=blocks):
                return self.blocks(blocks, level + 1, step, replace(face, italic=not face.italic))
            case n.ContentsList(entries=entries):
                return [self.entry(block, entry, face) for entry in entries]
            case n.PartTitle(children=children):
                return [one(children, replace(face, bold=True))]
            case n.IndexList(entries=entries):
                return [made for entry in entries for made in self.term(block, entry, level, face)]
            case n.ReferenceList(entries=entries):
                small = replace(face, size=self.size * 0.68)
                return [self.reference(block, entry, small) for entry in entries]
            case n.AboutHere(words=said):
                return [one((n.Text(block.span, said),), replace(face, italic=True))]
            case n.Container() as it:
                title = [one(it.title, replace(face, bold=True))] if it.title else []
                return [*title, *self.blocks(it.blocks, level, step, face)]
            case n.ChunkView(blocks=blocks):
                return self.blocks(blocks, level, step, face)
            case n.CodeBlock() as it:
                lines = [one((n.Code(it.span, line),)) for line in code_lines(it)]
                remarks = [one((n.Text(it.span, f"{at}  "), *said)) for at, said in enumerate(it.asides, 1)]
                return [*([one(caption_of(it))] if it.number else []), *lines, *remarks]
            case n.RichHtml(text=text) | n.OutputText(text=text):
                return [one((n.Text(block.span, line),)) for line in text.split("\n")]
            case n.TableBlock() as it:
                return [one(words) for words in (caption_of(it), *rows_in_words(it)) if words]
            case n.Figure() as it:
                return [one(caption_of(it)), *(one((n.Text(it.span, alt),)) for alt in self.unshown(it))]
            case n.MathBlock() as it:
                told = (n.Text(it.span, f"  ({it.number})"),) if it.number else ()
                return [one((n.Math(it.span, it.formula, it.alt), *told))]
            case n.Rule():
                return [one((n.Text(block.span, "* * *"),))]
            case n.RawHtmlBlock(html=html):
                self.tell(left_out(block.span, html, "presentation"))
                return []
            case n.AppendixBreak() | n.SheetBreak() | n.SlideBreak():
                return []
            case never:
                assert_never(never)

    def unshown(self, it: n.Figure) -> list[str]:
        """What stands in for pictures where nothing but text can: their words, and that they are not there."""
        self.tell(no_picture(it.span))
        return [one.alt for one in it.pictures if one.alt]

    def tell_of_pictures(self) -> None:
        """Tell of pictures that stood among words so far, where nothing shows them."""
        for shown in self.pictures:
            self.tell(no_picture(shown.span))

    def tell(self, problem: Problem | None) -> None:
        """Tell something of the page, once."""
        if problem is not None and problem not in self.problems:
            self.problems.append(problem)

    def called(self, face: Face) -> list[Paragraph]:
        """The notes called so far. Notes may call notes."""
        made: list[Paragraph] = []
        done = 0
        while done < len(self.notes):
            note = list(self.notes.values())[done]
            number = n.Text(note.span, f"{note.number}  ")
            first = note.blocks[0] if note.blocks and isinstance(note.blocks[0], n.Paragraph) else None
            words = (number, *(first.children if first else ()))
            made.append(self.paragraph(words, Lines(mark=BARE, before=2), face))
            made += self.blocks(note.blocks[1:] if first else note.blocks, face=face)
            done += 1
        return made

    def items(self, it: n.List, level: int, step: int, face: Face) -> list[Paragraph]:
        made = []
        for item in it.items:
            comes = item.step or step
            mark = numbered(it.start) if it.ordered else BULLET
            blocks = item.blocks
            first = blocks[0] if blocks and isinstance(blocks[0], n.Paragraph) else None
            box = () if item.done is None else (n.Text(item.span, "☑ " if item.done else "☐ "),)
            words = (*box, *(first.children if first else ()))
            if words:
                lines = self.at(level, BARE if item.done is not None else mark)
                made.append(self.paragraph(words, lines, face, comes))
            made += self.blocks(blocks[1:] if first else blocks, level, comes, face)
        return made

    def entry(self, block: n.Block, entry: n.ContentsEntry, face: Face) -> Paragraph:
        number = (n.Text(block.span, f"{entry.number}  "),) if entry.number else ()
        words = rewrite(entry.children, lambda node: () if isinstance(node, n.InlinePicture) else None)
        link = n.Link(block.span, "", "", (*number, *words), entry.label)
        return self.paragraph((link,), Lines(mark=BARE, left=INDENT * (entry.level - 1), before=6), face)

    def term(self, block: n.Block, entry: n.IndexEntry, level: int, face: Face) -> list[Paragraph]:
        """A term of the index, with links to the slides that name it."""
        words = self.terms.volume
        led = [(words["see"], one) for one in entry.see] + [(words["also"], one) for one in entry.also]
        places = [
            n.Link(block.span, "", "", (n.Text(block.span, place.said or "→"),), place.label) for place in entry.places
        ]
        said: list[n.Inline] = [n.Text(block.span, entry.words)]
        for one in places:
            said += [n.Text(block.span, ", "), one]
        said += [n.Text(block.span, f", {word} {other}") for word, other in led]
        made = [self.paragraph(tuple(said), self.at(level), face)]
        return made + [one for narrower in entry.narrower for one in self.term(block, narrower, level + 1, face)]

    def reference(self, block: n.Block, entry: n.Reference, face: Face) -> Paragraph:
        label = (*entry.label, n.Text(block.span, " ")) if entry.label else ()
        return self.paragraph((*label, *entry.words), Lines(mark=BARE, left=24, first=-24, before=4), face)


def no_picture(span: Span) -> Problem:
    """What is told of a picture where nothing but text can stand."""
    what = "a picture among notes is not in the presentation: they hold nothing but text there."
    return Problem(span, what, severity=Severity.WARNING)


def caption_of(it: n.Figure | n.TableBlock | n.CodeBlock) -> n.Inlines:
    """What it is called, and its caption; nothing where it has no number."""
    if not it.number:
        return ()
    named = n.Strong(it.span, (n.Text(it.span, f"{it.word}\u00a0{it.number}"),))
    return (named, n.Text(it.span, "  "), *it.caption)


def code_lines(it: n.CodeBlock) -> list[str]:
    """The lines of code, with the numbers of their remarks."""
    return [
        "".join(token.text for token in line.tokens).expandtabs(4) + (f"  ({line.aside})" if line.aside else "")
        for line in it.lines
    ]


def rows_in_words(it: n.TableBlock) -> list[n.Inlines]:
    """The rows of a table as running text, and the notes below it."""
    table = it.table
    between = n.Text(it.span, " | ")
    rows = [tuple(cell.text for cell in row) for row in table.heads] + list(table.rows)
    made: list[n.Inlines] = []
    for row in rows:
        words = [part for cell in row for part in (between, *cell)]
        made.append(tuple(words[1:]))
    made += [(n.Superscript(it.span, mark), n.Text(it.span, " "), *words) for mark, words in table.notes]
    return made + ([(n.Text(it.span, f"… {table.note}"),)] if table.note else [])


def is_text(block: n.Block) -> bool:
    """Whether a block is nothing but text, which stands in one shape with its neighbours."""
    match block:
        case (
            n.Paragraph()
            | n.Heading()
            | n.Definitions()
            | n.ContentsList()
            | n.ReferenceList()
            | n.IndexList()
            | n.AboutHere()
        ):
            return True
        case n.List(items=items):
            return all(is_text(inner) for item in items for inner in item.blocks)
        case n.Quote(blocks=blocks):
            return all(is_text(inner) for inner in blocks)
    return False
