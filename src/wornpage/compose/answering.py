"""Answer a page: its chunks, marks, formulas and pictures become what readers see. What hangs on other parts of the
page, or on other pages, is left for citing, numbering and pointing."""

from __future__ import annotations

import datetime
from typing import TypeVar
from urllib.parse import unquote

from msgspec import Struct
from msgspec.structs import replace

from wornpage.compose.chapters import Chapter
from wornpage.compose.code import aside_inlines, show_code
from wornpage.compose.documentation import Documentation
from wornpage.compose.graph import draw_graph, graph_words
from wornpage.compose.head import Head
from wornpage.compose.language import Language, language_of, write_date
from wornpage.compose.mathematics import formula_in, read_written, spoken
from wornpage.compose.pictures import natural_size, picture
from wornpage.compose.results import Captioned, show_chunk
from wornpage.compose.values import FormFault, exact_number, write_value
from wornpage.plan.record import Record
from wornpage.session.failures import Places
from wornpage.session.results import Answer, answer_from
from wornpage.settings import Settings
from wornpage.source import Page, build, build_inlines, fresh_label
from wornpage.source.attributes import OF_SLIDES, is_picture
from wornpage.tree import nodes as n
from wornpage.tree.colours import in_digits
from wornpage.tree.problem import Problem, Severity
from wornpage.tree.span import Span
from wornpage.tree.table import Told
from wornpage.tree.walk import respan, rewrite, walk, words_of

T = TypeVar("T", bound=tuple[n.Node, ...])
_LISTS = ("contents", "figures", "tables")


class Draft(Struct, frozen=True):
    """A page whose own questions are answered; its citations, numbers and pointers are still open."""

    page: Page
    settings: Settings
    language: Language
    head: n.TitleBlock
    blocks: n.Blocks
    problems: tuple[Problem, ...]
    files: tuple[str, ...]
    """Images that were read, as paths the system knows."""
    chapter: Chapter | None = None
    """What the page is in a volume; None for a page by itself."""

    @property
    def key(self) -> str:
        """What tells the page from the others of a work: editions of one page are others."""
        return self.chapter.key if self.chapter is not None else self.page.name


def answer(page: Page, settings: Settings, head: Head, record: Record, today: datetime.date) -> Draft:
    """`page` with all that `record` knows in place."""
    answering = _Answering(page, settings, record)
    title = answering.title(head, today)
    blocks = answering.answered(page.blocks)
    return Draft(
        page, settings, answering.language, title, blocks, tuple(answering.problems), tuple(sorted(answering.files))
    )


class _Answering:
    """Answers, results, formulas and pictures of one page."""

    def __init__(self, page: Page, settings: Settings, record: Record) -> None:
        self.page, self.settings, self.record = page, settings, record
        self.language: Language = language_of(settings.page.language)
        self.places = Places(page.path.name, {chunk.label: chunk for chunk in page.chunks}, published=True)
        self.problems: list[Problem] = []
        self.files: set[str] = set()
        every = settings.page.chunks.get("all")
        self.decimals = every.decimals if every else None
        self.teller = _Teller(self)
        html = settings.page.press.html
        codes = [chunk.code for chunk in page.chunks] if html.documentation_links else []
        self.documentation = Documentation(codes, html.documentation) if html.documentation_links else None

    def answered(self, tree: n.Blocks) -> n.Blocks:
        """`tree` with everything answered but pointers."""
        result: n.Blocks = rewrite(tree, self.change, into_words=False)
        return result

    def words(self, inlines: n.Inlines) -> n.Inlines:
        result: n.Inlines = rewrite(inlines, self.change)
        return result

    def title(self, head: Head, today: datetime.date) -> n.TitleBlock:
        """The head of the page, its marks answered and its date written."""
        front = self.settings.page
        return n.TitleBlock(
            title=self.words(head.title),
            subtitle=self.words(head.subtitle),
            authors=tuple(n.Person(a.name, tuple(a.affiliation), a.email, a.corresponding) for a in front.authors),
            date=self.date(head, today),
            abstract=self.answered(head.abstract),
            keywords=tuple(self.words(keyword) for keyword in head.keywords),
        )

    def date(self, head: Head, today: datetime.date) -> str:
        if self.settings.page.date == "when-pressed":
            return write_date(today, self.language)
        text = words_of(self.words(head.date))
        try:
            return write_date(datetime.date.fromisoformat(text), self.language)
        except ValueError:
            return text

    def change(self, node: n.Node) -> n.Node | tuple[n.Node, ...] | None:
        match node:
            case n.ValueMark():
                return self.value(node)
            case n.RawMath():
                return self.math(node)
            case n.RawMathBlock():
                return self.math_block(node)
            case n.Chunk():
                return self.chunk(node)
            case n.Listing():
                return self.listing(node)
            case n.PipeTable():
                return self.table(node)
            case n.PictureBlock():
                return self.pictures(node)
            case n.Image():
                found = self.picture(node)
                return n.InlinePicture(node.span, found) if found else ()
            case n.Command():
                return self.command(node)
            case n.Heading() if any(node.attributes.get(key) for key in OF_SLIDES):
                return (self.slide(node), replace(node, children=self.words(node.children)))
        return None

    # --- marks and mathematics ----------------------------------------------------------------

    def value(self, mark: n.ValueMark) -> n.Node | tuple[n.Node, ...]:
        answer = self.record.answers.get(mark.span)
        if answer is None or answer.failure is not None:
            return ()
        return self.written(answer, mark)

    def written(self, answer: Answer, mark: n.ValueMark) -> n.Node | tuple[n.Node, ...]:
        """An answer in words."""
        if answer.type == "faces" and not mark.form and answer.value["formula"]:
            formula = formula_in(answer.value["formula"])
            if formula is not None:
                return n.Answered(mark.span, (n.Math(mark.span, formula, spoken(formula)),), mark.raw)
        try:
            words = n.Text(mark.span, write_value(answer, mark.form, self.decimals, self.language))
            exact = "" if mark.form or self.decimals is not None else exact_number(answer.value, None)
            return n.Answered(mark.span, (words,), mark.raw, exact)
        except FormFault as fault:
            self.problems.append(Problem(mark.span, f"{fault}."))
            return ()

    def math(self, math: n.RawMath) -> n.Node:
        formula, problems = read_written(math, self.settings.page.macros)
        self.problems += problems
        return n.Math(math.span, formula, spoken(formula), math.latex) if formula else n.Code(math.span, math.latex)

    def math_block(self, math: n.RawMathBlock) -> n.Node:
        formula, problems = read_written(math, self.settings.page.macros)
        self.problems += problems
        if formula is None:
            return n.OutputText(math.span, math.latex, "error")
        return n.MathBlock(math.span, formula, spoken(formula), math.label, latex=math.latex)

    # --- blocks -------------------------------------------------------------------------------

    def chunk(self, chunk: n.Chunk) -> n.Node | tuple[n.Node, ...]:
        outcome = self.record.chunks.get(chunk.label)
        if outcome is None or outcome.result is None or chunk.binds:
            return ()
        self.teller.apart = chunk.apart
        captions = tuple(Captioned(self.words(c.children), c.kind, c.span) for c in chunk.captions)
        options = self.settings.of(chunk).options
        view, problems = show_chunk(
            chunk, outcome.result, options, captions, self.language, self.places, self.teller, self.documentation
        )
        self.problems += problems
        return view

    def listing(self, listing: n.Listing) -> n.Node:
        shown = show_code(listing.code, listing.language, (), self.documentation)
        asides = tuple(self.words(aside_inlines(words, listing.span)) for words in shown.asides)
        caption = self.words(listing.caption.children) if listing.caption else ()
        return n.CodeBlock(listing.span, listing.language, shown.lines, listing.label, asides=asides, caption=caption)

    def table(self, table: n.PipeTable) -> n.Node:
        heads = tuple(n.HeadCell(self.words(cell)) for cell in table.head)
        rows = tuple(tuple(self.words(cell) for cell in row) for row in table.rows)
        aligns = tuple(align or "left" for align in table.aligns)
        caption = self.words(table.caption.children) if table.caption else ()
        return n.TableBlock(table.span, n.TextTable((heads,), aligns, rows), caption, table.label)

    def pictures(self, block: n.PictureBlock) -> n.Node:
        found = [picture for image in block.images if (picture := self.picture(image))]
        caption = self.words(block.caption.children) if block.caption else ()
        attributes = block.images[0].attributes
        align = attributes.get("align", "centre").replace("center", "centre")
        label = block.label or next((one.attributes.label for one in block.images if one.attributes.label), "")
        if caption:
            found = [replace(one, alt=one.alt or words_of(caption)) for one in found]
        return n.Figure(block.span, tuple(found), caption, label, align=align)

    def picture(self, image: n.Image) -> n.Picture | None:
        found, problem = picture(image, self.page.path.parent)
        if not image.source.startswith("data:"):
            self.files.add(str(self.page.path.parent.resolve() / unquote(image.source)))
        if problem is not None:
            self.problems.append(problem)
        if found is None:
            return None
        alt = image.attributes.get("alt") or words_of(self.words(image.alt))
        if not alt and not found.alt:
            alt = image.title or image.source.rpartition("/")[2].rpartition(".")[0][:60]
            what = "this image has no alternative text."
            self.problems.append(Problem(image.span, what, "Write it as `![words](file)`.", Severity.WARNING))
        return replace(found, alt=alt or found.alt)

    def command(self, command: n.Command) -> n.Node | tuple[n.Node, ...]:
        if command.verb in _LISTS:
            return n.ContentsList(command.span, command.verb)
        if command.verb == "graph":
            return self.graph(command)
        if command.verb == "references":
            return n.ReferenceList(command.span)
        if command.verb == "index":
            return n.IndexList(command.span)
        if command.verb == "appendix":
            return n.AppendixBreak(command.span)
        if command.verb == "new slide":
            return self.slide(command)
        if command.verb == "new sheet":
            return n.SheetBreak(command.span)
        what = f"this version of Worn Page does not know {{{command.verb}}} yet."
        self.problems.append(Problem(command.span, what))
        return ()

    def slide(self, node: n.Command | n.Heading) -> n.SlideBreak:
        """Where a slide begins that is to look otherwise than others."""
        attributes = node.attributes
        said = attributes.get("background")
        behind = None
        if is_picture(said):
            image = n.Image(attributes.span or node.span, said, "", (), n.Attributes(pairs=(("alt", "-"),)))
            behind = self.picture(image)
        steps = attributes.get("steps")
        look = n.SlideLook(
            attributes.get("title") != "no",
            in_digits(said) if said and not is_picture(said) else "",
            behind,
            attributes.get("vertical").replace("center", "centre"),
            steps == "yes" if steps else None,
            attributes.get("fit"),
        )
        return n.SlideBreak(node.span, look)

    def graph(self, command: n.Command) -> n.Node:
        """The page's own graph; nothing of what ran or was reused is in it."""
        drawing = draw_graph(self.record.graph)
        width, height = natural_size("svg", drawing)
        picture = n.Picture("svg", drawing, width, height, graph_words(self.record.graph))
        return n.Figure(command.span, (picture,))


class _Teller:
    """Words that a chunk has written, as nodes: their value marks have their answers with them."""

    def __init__(self, answering: _Answering) -> None:
        self.answering = answering
        self.told = 0
        self.apart = ""
        """What tells the labels of the chunk apart that speaks."""
        self.labels = {node.label for node in walk(answering.page.blocks) if isinstance(node, n.Heading)}

    def words(self, inlines: n.Inlines) -> n.Inlines:
        return self.answering.words(inlines)

    def inlines(self, told: Told, span: Span) -> n.Inlines:
        built, problems = build_inlines(told.text, span)
        return self.answering.words(self._answered(built, told, problems, span))

    def blocks(self, told: Told, span: Span) -> n.Blocks:
        built = build(told.text, span.file)
        problems = [problem for problem in built.problems if problem.severity is Severity.ERROR]
        if built.chunks:
            what = "a chunk stands in what `page.prose` was given."
            self.answering.problems.append(Problem(span, what, "Chunks stand in the page itself."))
            return ()
        blocks = self._answered(built.blocks, told, problems, span)
        return self.answering.answered(rewrite(blocks, self._with_own_label))

    def _with_own_label(self, node: n.Node) -> n.Node | None:
        if not isinstance(node, n.Heading):
            return None
        return replace(node, label=self.label("" if not node.attributes.label else node.label, node.children))

    def label(self, wished: str, words: n.Inlines) -> str:
        label = fresh_label(wished or words_of(words), self.labels)
        self.labels.add(label)
        return label

    def _answered(self, tree: T, told: Told, problems: list[Problem], span: Span) -> T:
        """`tree` with its values, all of it at the place of the chunk."""
        self.answering.problems += [Problem(span, p.what, p.hint, p.severity) for p in problems]
        answers = iter(told.answers)
        self.told += 1

        def change(node: n.Node) -> n.Node | tuple[n.Node, ...] | None:
            if isinstance(node, n.Footnote):
                return replace(node, key=f"{node.key}, told {self.told}", blocks=rewrite(node.blocks, change))
            if isinstance(node, n.PointerMark):
                return replace(node, apart=self.apart)
            if not isinstance(node, n.ValueMark):
                return None
            answer = next(answers, None)
            return self.answering.written(answer_from(answer), node) if answer else ()

        result: T = respan(rewrite(tree, change), span)
        return result
