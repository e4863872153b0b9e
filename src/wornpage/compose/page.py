"""Compose a page: every chunk, mark and formula becomes what readers see. Three passes over the tree."""

from __future__ import annotations

import datetime
from typing import TypeVar
from urllib.parse import unquote

from msgspec.structs import replace

from wornpage.compose.citing import Citing, Notes, set_close
from wornpage.compose.code import aside_inlines, show_code
from wornpage.compose.documentation import Documentation
from wornpage.compose.graph import draw_graph, graph_words
from wornpage.compose.head import Head
from wornpage.compose.language import Language, language_of, write_date
from wornpage.compose.mathematics import MathFault, read_formula, spoken
from wornpage.compose.numbering import Numbered, number
from wornpage.compose.pictures import natural_size, picture
from wornpage.compose.pointers import find_label, point
from wornpage.compose.results import Captioned, show_chunk
from wornpage.compose.values import FormFault, write_value
from wornpage.plan.record import Record
from wornpage.session.failures import Places
from wornpage.session.results import Answer, answer_from
from wornpage.settings import Settings
from wornpage.source import Page, build, build_inlines, fresh_label
from wornpage.tree import nodes as n
from wornpage.tree.problem import Problem, Severity
from wornpage.tree.span import Span
from wornpage.tree.table import Told
from wornpage.tree.walk import children, respan, rewrite, walk, without_links, words_of

T = TypeVar("T", bound=tuple[n.Node, ...])
_LISTS = ("contents", "figures", "tables")


def compose(
    page: Page, settings: Settings, head: Head, record: Record, today: datetime.date
) -> tuple[n.Composed, list[Problem]]:
    """The page with all its answers in place, and everything found wrong on the way."""
    composer = _Composer(page, settings, record)
    citing = Citing(page, settings, composer.language)
    blocks = citing.prepare((*head.title, *head.subtitle, *head.abstract), composer.answered(page.blocks))
    numbered = number(blocks, settings.page.section_numbers)
    problems = [*composer.problems, *citing.problems, *numbered.problems]
    pointing = _Pointing(numbered, composer.language, problems, citing)
    title = _TitleMaker(composer, pointing, settings).make(head, today)
    body = set_close(pointing.settled(numbered.blocks)) if citing.marks else pointing.settled(numbered.blocks)
    notes = Notes()
    title = replace(title, abstract=notes.numbered(set_close(title.abstract)))
    body = notes.numbered(body)
    contents = pointing.entries("contents")
    composed = n.Composed(
        head=title,
        blocks=body,
        contents=contents,
        plain_title=words_of(title.title) or _title_otherwise(contents, page),
        language=settings.page.language,
        words=_word_count(body),
        files=tuple(sorted({*composer.files, *(str(path.resolve()) for path in citing.files)})),
    )
    return composed, problems


def _word_count(blocks: n.Blocks) -> int:
    """Words of running text: without code, cells of tables and references."""
    counted = 0
    todo: list[n.Node] = list(blocks)
    while todo:
        node = todo.pop()
        if isinstance(node, n.Text):
            counted += sum(any(map(str.isalnum, word)) for word in node.text.split())
        elif isinstance(node, n.TableBlock):
            todo += node.caption
        elif not isinstance(node, n.CodeBlock | n.OutputText | n.ReferenceList):
            todo += children(node)
    return counted


def _title_otherwise(contents: tuple[n.ContentsEntry, ...], page: Page) -> str:
    """What an untitled page is called: its first heading, or its file."""
    return words_of(contents[0].children) if contents else page.path.stem


class _Composer:
    """First pass: answers, results, formulas, pictures."""

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
        result: n.Blocks = rewrite(tree, self.change)
        return result

    def words(self, inlines: n.Inlines) -> n.Inlines:
        result: n.Inlines = rewrite(inlines, self.change)
        return result

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
        return None

    # --- marks and mathematics ----------------------------------------------------------------

    def value(self, mark: n.ValueMark) -> n.Node | tuple[n.Node, ...]:
        answer = self.record.answers.get(mark.span)
        if answer is None or answer.failure is not None:
            return ()
        return self.written(answer, mark)

    def written(self, answer: Answer, mark: n.ValueMark) -> n.Node | tuple[n.Node, ...]:
        """An answer in words."""
        try:
            words = n.Text(mark.span, write_value(answer, mark.form, self.decimals, self.language))
            return n.Answered(mark.span, (words,), mark.raw)
        except FormFault as fault:
            self.problems.append(Problem(mark.span, f"{fault}."))
            return ()

    def math(self, math: n.RawMath) -> n.Node:
        try:
            formula = read_formula(math.latex, self.settings.page.macros)
        except MathFault as fault:
            self.problems.append(_math_problem(fault, math.latex, math.span, 1))
            return n.Code(math.span, math.latex)
        return n.Math(math.span, formula, spoken(formula))

    def math_block(self, math: n.RawMathBlock) -> n.Node:
        try:
            formula = read_formula(math.latex, self.settings.page.macros)
        except MathFault as fault:
            self.problems.append(_math_problem(fault, math.latex, math.span, 2))
            return n.OutputText(math.span, math.latex, "error")
        return n.MathBlock(math.span, formula, spoken(formula), math.label)

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
        if command.verb == "appendix":
            return n.AppendixBreak(command.span)
        if command.verb == "new sheet":
            return n.SheetBreak(command.span)
        what = f"this version of Worn Page does not know {{{command.verb}}} yet."
        self.problems.append(Problem(command.span, what))
        return ()

    def graph(self, command: n.Command) -> n.Node:
        """The page's own graph; nothing of what ran or was reused is in it."""
        drawing = draw_graph(self.record.graph)
        width, height = natural_size("svg", drawing)
        picture = n.Picture("svg", drawing, width, height, graph_words(self.record.graph))
        return n.Figure(command.span, (picture,))


class _Teller:
    """Words that a chunk has written, as nodes: their value marks have their answers with them."""

    def __init__(self, composer: _Composer) -> None:
        self.composer = composer
        self.told = 0
        self.apart = ""
        """What tells the labels of the chunk apart that speaks."""
        self.labels = {node.label for node in walk(composer.page.blocks) if isinstance(node, n.Heading)}

    def inlines(self, told: Told, span: Span) -> n.Inlines:
        built, problems = build_inlines(told.text, span)
        return self.composer.words(self._answered(built, told, problems, span))

    def blocks(self, told: Told, span: Span) -> n.Blocks:
        built = build(told.text, span.file)
        problems = [problem for problem in built.problems if problem.severity is Severity.ERROR]
        if built.chunks:
            what = "a chunk stands in what `page.prose` was given."
            self.composer.problems.append(Problem(span, what, "Chunks stand in the page itself."))
            return ()
        blocks = self._answered(built.blocks, told, problems, span)
        return self.composer.answered(rewrite(blocks, self._with_own_label))

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
        self.composer.problems += [Problem(span, p.what, p.hint, p.severity) for p in problems]
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
            return self.composer.written(answer_from(answer), node) if answer else ()

        result: T = respan(rewrite(tree, change), span)
        return result


def _math_problem(fault: MathFault, latex: str, span: Span, dollars: int) -> Problem:
    """The fault at its own place inside the formula."""
    before = latex[: fault.offset]
    line = span.line + before.count("\n")
    column = fault.offset - before.rfind("\n") if "\n" in before else span.column + dollars + fault.offset
    return Problem(span.at(line, column), fault.what, fault.hint)


class _Pointing:
    """Third pass: pointers, and the lists of what the page holds."""

    def __init__(self, numbered: Numbered, language: Language, problems: list[Problem], citing: Citing) -> None:
        self.numbered, self.language, self.problems, self.citing = numbered, language, problems, citing
        self.in_note = False

    def settled(self, tree: T) -> T:
        result: T = rewrite(tree, self.change)
        return result

    def change(self, node: n.Node) -> n.Node | tuple[n.Node, ...] | None:
        match node:
            case n.PointerMark():
                words, problems = point(node, self.numbered.targets, self.language)
                self.problems.extend(p for p in problems if p not in self.problems)
                return n.Answered(node.span, words, node.raw)
            case n.CiteMark():
                return self.citing.citation(node, self.in_note)
            case n.Footnote() if not self.in_note:
                self.in_note = True
                made = replace(node, blocks=self.settled(node.blocks))
                self.in_note = False
                return made
            case n.ReferenceList():
                return self.citing.list_of(node)
            case n.ContentsList():
                return replace(node, entries=self.entries(node.kind))
            case n.Link(to=to) if to:
                return self.link(node)
        return None

    def link(self, link: n.Link) -> n.Link | None:
        """A link inside the page must lead somewhere."""
        from wornpage.tree.problem import near_miss

        known = find_label(link.to, link.apart, self.numbered.targets)
        if known and known != link.to:
            return n.Link(link.span, "", link.title, self.settled(link.children), known)
        if not known:
            what = f"nothing in this page is labelled {link.to!r}."
            self.problems.append(Problem(link.span, what, near_miss(link.to, self.numbered.targets)))
        return None

    def bare(self, words: n.Inlines) -> n.Inlines:
        """A heading's or caption's words for a list of links to them."""
        return without_links(self.settled(words))

    def entries(self, kind: str) -> tuple[n.ContentsEntry, ...]:
        if kind == "contents":
            return tuple(replace(entry, children=self.bare(entry.children)) for entry in self.numbered.contents)
        wanted = kind.removesuffix("s")
        return tuple(
            n.ContentsEntry(1, target.number, target.anchor, self.bare(target.words))
            for target in self.numbered.targets.values()
            if target.kind == wanted and len(target.place) == 1
        )


class _TitleMaker:
    """The head of a page, its marks answered and its date written."""

    def __init__(self, composer: _Composer, pointing: _Pointing, settings: Settings) -> None:
        self.composer, self.pointing, self.settings = composer, pointing, settings

    def inlines(self, inlines: n.Inlines) -> n.Inlines:
        return self.pointing.settled(self.composer.words(inlines))

    def make(self, head: Head, today: datetime.date) -> n.TitleBlock:
        front = self.settings.page
        return n.TitleBlock(
            title=self.inlines(head.title),
            subtitle=self.inlines(head.subtitle),
            authors=tuple(n.Person(a.name, tuple(a.affiliation), a.email, a.corresponding) for a in front.authors),
            date=self.date(head, today),
            abstract=self.pointing.settled(self.composer.answered(head.abstract)),
            keywords=tuple(self.inlines(keyword) for keyword in head.keywords),
        )

    def date(self, head: Head, today: datetime.date) -> str:
        language = self.composer.language
        if self.settings.page.date == "when-pressed":
            return write_date(today, language)
        text = words_of(self.inlines(head.date))
        try:
            return write_date(datetime.date.fromisoformat(text), language)
        except ValueError:
            return text
