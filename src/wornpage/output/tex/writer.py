"""A composed page as a LaTeX source that a collaborator goes on with by hand."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path
from typing import assert_never

from wornpage.output.at_end import without_floats
from wornpage.output.audience import for_output
from wornpage.output.bounds import bounded
from wornpage.output.kind import Job, Written
from wornpage.output.left_out import left_out
from wornpage.output.outputs import options_in
from wornpage.output.paper import sheet_of
from wornpage.output.pdf.writer import texts_of
from wornpage.output.pointing import goals_of
from wornpage.output.sharing import shares
from wornpage.output.stationery import Stationery, find_stationery
from wornpage.output.tex import letters
from wornpage.output.tex.citing import Cites
from wornpage.output.tex.code import among_words, code_block, output_block
from wornpage.output.tex.counting import SECTIONS, Counting
from wornpage.output.tex.formulas import display
from wornpage.output.tex.hosted import PACKAGE, filled_source, package_file
from wornpage.output.tex.opening import Opening, is_numbered, listed_works
from wornpage.output.tex.options import TexPress
from wornpage.output.tex.pictures import pictures
from wornpage.output.tex.running import Running, alternative
from wornpage.output.tex.sheet import Source, filled, is_mark, mark
from wornpage.output.tex.tables import Laid, laid, notes_below
from wornpage.tree import nodes as n
from wornpage.tree.files import as_utf8
from wornpage.tree.problem import Problem, Severity
from wornpage.tree.span import Span
from wornpage.tree.walk import walk, words_of

GUTTER = 0.6
"""Centimetres between things side by side."""
TALLEST = 20.0
"""Centimetres that a figure may be high and still leave room for its caption."""
_DEEPEST = 4
"""Lists within each other that LaTeX sets."""
_LISTS = {"contents": "toc", "figures": "lof", "tables": "lot"}
"""Where LaTeX keeps what a list has."""


def write_tex(page: n.Composed, job: Job) -> Written:
    """The source and what lies beside it."""
    source, beside, problems = source_of(page, job, "tex")
    return Written(as_utf8(source.text), problems, beside)


def source_of(
    page: n.Composed, job: Job, kind: str, fallbacks: tuple[str, ...] = ()
) -> tuple[Source, dict[str, bytes], tuple[Problem, ...]]:
    """The source of a page for the output `kind`, the files in its folder, and what is wrong with it.

    `fallbacks` are files of fonts that are there for letters which LaTeX's own do not have.
    """
    settings = job.settings
    options: TexPress = options_in(settings, "tex")
    page, cut = bounded(for_output(page, kind), "LaTeX file")
    stationery = find_stationery(settings.stationery, job.folder / job.name)
    package = options.cites if options.cites != "as-looks" else stationery.said.get("tex-cites", "text")
    cites = Cites(package, job) if package in {"biblatex", "natbib"} else None
    writer = TexWriter(page, job, stationery, cites, fallbacks)
    source = filled_source(page, job, writer.pictures.folder, writer.result) if page.host else writer.source(options)
    beside = dict(writer.pictures.files)
    if page.host:
        return source, {**beside, f"{PACKAGE}.sty": as_utf8(package_file())}, (*cut, *writer.problems)
    if cites is not None:
        beside["references.bib"] = as_utf8(cites.bibliography())
    missing = [] if options.font or fallbacks else _missing(page, job.name)
    return source, beside, (*cut, *missing, *writer.problems)


def _missing(page: n.Composed, name: str) -> list[Problem]:
    """A warning for each letter that LaTeX's own fonts do not have."""
    lacking = set().union(*map(letters.lacking, texts_of(page, formulas=False)))
    if not lacking:
        return []
    places: dict[str, Span] = {}
    for node in walk(page.blocks):
        for one in lacking.intersection(getattr(node, "text", "") or ""):
            places.setdefault(one, node.span)
    hint = "Name a font of your machine that has it: `press: {tex: {font: Noto Serif}}`."
    return [
        Problem(
            places.get(one, Span(name, 1)), f"LaTeX's own fonts have no letter {one!r} (U+{ord(one):04X}).", hint, Severity.WARNING
        )
        for one in sorted(lacking, key=lambda one: (places.get(one, Span(name, 1)), one))[:20]
    ]  # fmt: skip


class TexWriter:
    """Writes blocks; one method a node."""

    def __init__(
        self, page: n.Composed, job: Job, stationery: Stationery, cites: Cites | None, fallbacks: tuple[str, ...] = ()
    ) -> None:
        self.fallbacks = fallbacks
        self.page, self.job, self.stationery, self.cites = page, job, stationery, cites
        self.language = page.terms
        self.problems: list[Problem] = []
        self.pictures = pictures(f"{job.stem or Path(job.name).stem}-files")
        goals = goals_of(page.blocks)
        self.running = Running(goals, self.pictures, cites, self.blocks, self._left_out_tag)
        self.counting = Counting()
        self.is_numbered = is_numbered(page)
        self.two_columns = stationery.column_width < stationery.text_width
        self.room = stationery.column_width
        """Centimetres from side to side where things now stand."""
        self.may_float = True
        self.chunk = ""
        """The label of the chunk whose results are written now."""
        self.is_hosted = bool(page.host)
        """Whether what is written goes into somebody's own source, which counts and floats by itself."""
        self.depth = 0

    # --- the whole ----------------------------------------------------------------------------

    def source(self, options: TexPress) -> Source:
        """The whole source."""
        page, settings = self.page, self.job.settings
        blocks: n.Blocks = page.blocks
        moved: list[n.Block] = []
        if options.figures == "at-end":
            blocks, moved = without_floats(blocks, self.language)
        head, words = page.head, self.running.words
        opening = Opening(page, self.job, self.cites, self.pictures.folder, self.fallbacks)
        pieces = {  # in the order of the page, so that its notes are counted as they are called
            "title": words(head.title) or letters.text(page.plain_title),
            "subtitle": words(head.subtitle),
            "date": letters.text(head.date),
            "abstract": self.blocks(head.abstract),
            "keywords": ", ".join(words(keyword) for keyword in head.keywords),
            "running_title": letters.text(settings.running_title or page.plain_title),
            "body": self.blocks(blocks),
            "floats": "\n\n\\clearpage\n".join(self.block_at(block) for block in moved),
            "contents": "\\tableofcontents" if options.contents and page.contents else "",
            "bibliography": opening.bibliography(),
            "names": opening.names(),
            "preamble": opening.preamble(options),
        }
        sheet = sheet_of(options.paper)
        values: dict[str, object] = {
            "authors": [_author(person, self._places()) for person in head.authors],
            "affiliations": [letters.text(place) for place in self._places()],
            "has_title": bool(head.title),
            "paper_width": f"{sheet.width:g}cm",
            "paper_height": f"{sheet.height:g}cm",
            "text_width": f"{min(self.stationery.text_width, sheet.width - 2):g}cm",
            "words": letters.text(self.language.length(page.words)),
            "abstract_word": letters.text(self.language.abstract),
            "keywords_word": letters.text(self.language.keywords),
            "corresponding_word": letters.text(self.language.corresponding),
            "running_word": letters.text(self.language.running_title),
        }
        return filled(self.stationery, pieces, values, self.job.name, self.pictures.folder)

    def _places(self) -> list[str]:
        """The places that authors work at, each once."""
        return list(dict.fromkeys(place for person in self.page.head.authors for place in person.affiliations))

    def _left_out_tag(self, tag: n.RawHtmlInline) -> None:
        self.left_out(tag.span, tag.html)

    def left_out(self, span: Span, html: str) -> None:
        """A tag meant for HTML alone is left out here; said once a line, and not for mere comments."""
        problem = left_out(span, html, "LaTeX file")
        if problem is not None and problem not in self.problems:
            self.problems.append(problem)

    # --- blocks -------------------------------------------------------------------------------

    def blocks(self, blocks: n.Blocks) -> str:
        """Blocks with a line between them; a sentence that goes on behind a formula begins no paragraph."""
        made = ""
        before: n.Block | None = None
        for block in blocks:
            text = self.block_at(block)
            if text:
                goes_on = isinstance(before, n.MathBlock) and isinstance(block, n.Paragraph) and _begins_small(block)
                made += ("\n" if goes_on else "\n\n") * bool(made) + text
                before = block
        return made

    def block_at(self, node: n.Block) -> str:
        """A block, behind what says where it is written."""
        made = self.block(node)
        return made if not made or self.running.in_note else mark(node.span) + made

    def result(self, node: n.Block) -> str:
        """What stands in a source of LaTeX's own for a chunk or a value."""
        made = self.running.words(node.children) if isinstance(node, n.Paragraph) else self.block(node)
        return "\n".join(line for line in made.split("\n") if not is_mark(line))

    def block(self, node: n.Block) -> str:
        words = self.running.words
        match n.composed_block(node):
            case n.Heading() as it:
                return self.heading(it)
            case n.PartTitle(children=children, label=label):
                return rf"\part{{{words(children)}}}\label{{{letters.label(label)}}}"
            case n.Paragraph(children=children):
                return words(children)
            case n.Quote(blocks=blocks):
                return self.within("quote", blocks)
            case n.List() as it:
                return self.item_list(it)
            case n.Definitions(entries=entries):
                items = "\n".join(self.definition(entry) for entry in entries)
                return f"\\begin{{description}}\n{items}\n\\end{{description}}"
            case n.Rule():
                return r"\wornrule"
            case n.RawHtmlBlock(html=html):
                self.left_out(node.span, html)
                return ""
            case n.Container() as it:
                return self.container(it)
            case n.ChunkView(label=label, blocks=blocks):
                self.chunk = label
                return self.blocks(blocks)
            case n.CodeBlock() as it:
                return self.code(it)
            case n.OutputText() as it:
                return among_words(it) if self.running.in_note else output_block(it, self.room)
            case n.Figure() as it:
                return self.figure(it)
            case n.TableBlock() as it:
                return self.table(it)
            case n.MathBlock() as it:
                return self.math(it)
            case n.RichHtml(text=text):
                return self.block(n.OutputText(node.span, text, "output"))
            case n.ContentsList(kind=kind):
                return rf"\wornlist{{{_LISTS[kind]}}}"
            case n.AppendixBreak():
                self.counting.appendix()
                return r"\appendix"
            case n.SlideBreak():
                return ""
            case n.AboutHere(words=said):
                return rf"\begin{{center}}\itshape {letters.text(said)}\end{{center}}"
            case n.IndexList() as it:
                return self.index(it)
            case n.ReferenceList() as it:
                return (
                    self.references(it)
                    if self.cites is None
                    else listed_works(self.cites, self.pictures.folder, has_heading=True)
                )
            case n.SheetBreak(right_hand=right_hand):
                return r"\cleardoublepage" if right_hand else r"\clearpage"
            case never:
                assert_never(never)

    def heading(self, node: n.Heading) -> str:
        words = self.running.with_notes_below(lambda: self.running.words(node.children).replace("\n", " "))
        title, _, notes = words.partition("\n")
        star = "" if node.number or not self.is_numbered else "*"
        before = self.counting.section(node.level, node.number) if node.number else ""
        name = SECTIONS[min(node.level, len(SECTIONS)) - 1]
        label = rf"\label{{{letters.label(node.label)}}}" if node.label else ""
        return "\n".join(filter(None, [f"{before}\\{name}{star}{{{title}}}{label}", notes]))

    def within(self, environment: str, blocks: n.Blocks, options: str = "") -> str:
        """Blocks in an environment."""
        return f"\\begin{{{environment}}}{options}\n{self.held(blocks)}\n\\end{{{environment}}}"

    def held(self, blocks: n.Blocks) -> str:
        """Blocks within a quotation, a box or an item; a heading that begins them may stand right below another."""
        return (r"\wornfirst " if blocks and isinstance(blocks[0], n.Heading) else "") + self.blocks(blocks)

    def item_list(self, node: n.List) -> str:
        self.depth += 1
        items = "\n".join(self.item(item, node.start + at if node.ordered else 0) for at, item in enumerate(node.items))
        self.depth -= 1
        if self.depth >= _DEEPEST:
            return items
        name = "enumerate" if node.ordered else "itemize"
        counter = f"enum{'i' * (self.depth + 1)}" if self.depth < 3 else "enumiv"
        start = f"\\setcounter{{{counter}}}{{{node.start - 1}}}\n" if node.ordered and node.start != 1 else ""
        tight = "\\worntight\n" if node.tight else ""
        return f"\\begin{{{name}}}\n{start}{tight}{items}\n\\end{{{name}}}"

    def item(self, item: n.Item, number: int) -> str:
        if self.depth > _DEEPEST:
            sign = f"{number}." if number else r"\textbullet"
            return rf"\par\hspace*{{1.5em}}{sign}\ {self.blocks(item.blocks)}"
        box = "" if item.done is None else r"[\(\boxtimes\)]" if item.done else r"[\(\square\)]"
        return rf"\item{box} {self.held(item.blocks)}"

    def definition(self, node: n.Definition) -> str:
        meanings = "\n\n".join(self.held(meaning) for meaning in node.meanings)
        return rf"\item[{{{self.running.words(node.term)}}}] {meanings}"

    def container(self, node: n.Container) -> str:
        if node.chosen:
            return self.blocks(node.blocks)
        label = rf"\phantomsection\label{{{letters.label(node.attributes.label)}}}" if node.attributes.label else ""
        if node.kind == "side-by-side":
            return label + self.columns(node)
        title = self.running.words(node.title)
        outer = self.may_float, self.room
        self.may_float, self.room = False, self.room - 0.8
        made = self.within("wornbox", node.blocks, f"{{{title}}}{label}")
        self.may_float, self.room = outer
        return made

    def columns(self, node: n.Container) -> str:
        widths = shares(node)
        whole = self.room - GUTTER * (len(widths) - 1)
        outer = self.may_float, self.room
        cells = []
        for block, width in zip(node.blocks, widths, strict=True):
            self.may_float, self.room = False, whole * width / sum(widths)
            share = self.room / outer[1]
            cells.append(
                f"\\begin{{minipage}}[t]{{{share:.3f}\\linewidth}}\n{self.blocks((block,))}\n\\end{{minipage}}"
            )
        self.may_float, self.room = outer
        return "\\noindent\n" + "\\hfill\n".join(cells)

    def counted(self, kind: str, number: str) -> str:
        """What makes LaTeX count on as the page does; a source of somebody's own counts by itself."""
        return self.counting.captioned(kind, number) if number and not self.is_hosted else ""

    # --- formulas and code --------------------------------------------------------------------

    def math(self, node: n.MathBlock) -> str:
        return display(node, "" if r"\tag" in node.latex else self.counted("equation", node.number))

    def code(self, node: n.CodeBlock) -> str:
        if self.running.in_note:
            return among_words(node)
        made = code_block(node, self.room)
        for number, words in enumerate(node.asides, 1):
            made += f"\n\\wornaside{{{number}}}{{{self.running.words(words)}}}"
        if not node.label:
            return made
        before = self.counted("listing", node.number)
        label = letters.label(node.label)
        return rf"{before}\wornlisting{{{self.running.words(node.caption)}}}{{{label}}}" + f"\n{made}"

    # --- figures and tables -------------------------------------------------------------------

    def figure(self, node: n.Figure) -> str:
        wide = self.two_columns and self.may_float and bool(node.number) and _is_wide(node, self.room)
        room = self.stationery.text_width if wide else self.room

        def write() -> str:
            if len(node.pictures) == 1:
                body = self.picture(node.pictures[0], room, node.label or self.chunk)
                return self.captioned("figure", node, body, wide, caption_above=False)
            floats = bool(node.number) and self.may_float
            first, *others = self.sheets_of_parts(node.pictures, room, node.label, floats)
            made = [self.captioned("figure", node, first, wide, caption_above=False)]
            name = "figure*" if wide else "figure"
            made += [
                f"\\begin{{{name}}}[!htbp]\\ContinuedFloat\n{other}\n\\end{{{name}}}" if floats else other
                for other in others
            ]
            return "\n\n".join(made)

        return self.running.with_notes_below(write)

    def sheets_of_parts(self, pictures: tuple[n.Picture, ...], room: float, label: str, floats: bool) -> list[str]:
        """The parts of a figure, two beside each other, as many at once as a sheet holds."""
        sheets: list[list[str]] = [[]]
        used = 0.0
        for at in range(0, len(pictures), 2):
            pair = pictures[at : at + 2]
            height = max(one.height * min(1.0, (room / 2 - 0.3) / (one.width or room)) for one in pair) + 1.0
            if sheets[-1] and used + height > TALLEST:
                sheets.append([])
                used = 0.0
            used += height
            sheets[-1].append("\n".join(self.part(one, room, label, floats) for one in pair))
        return ["\n\n\\medskip\n".join(sheet) for sheet in sheets]

    def picture(self, picture: n.Picture, room: float, name: str) -> str:
        width, height = picture.width, picture.height
        factor = min(1.0, room / width if width else 1.0, TALLEST / height if height else 1.0)
        size = f"{width * factor:.4g}cm" if width and width * factor < room - 0.05 else r"\linewidth"
        return rf"\includegraphics[width={size}{alternative(picture)}]{{{self.pictures.file(picture, name)}}}"

    def part(self, picture: n.Picture, room: float, label: str, floats: bool) -> str:
        """One of several pictures; LaTeX letters it where it floats."""
        name = f"{label or self.chunk}-{picture.letter}" if picture.letter else label or self.chunk
        place = rf"\label{{{letters.label(f'{label}.{picture.letter}')}}}" if label and picture.letter else ""
        inner = self.picture(picture, room / 2 - 0.3, name)
        if not floats:
            letter = f"\n\n{{\\small ({picture.letter})}}" if picture.letter else ""
            return f"\\begin{{minipage}}{{0.48\\linewidth}}\\centering\n{inner}{letter}\n\\end{{minipage}}\\hfill"
        return f"\\begin{{subfigure}}{{0.48\\linewidth}}\\centering\n{inner}\n\\caption{{}}{place}\n\\end{{subfigure}}\\hfill"

    def captioned(self, kind: str, node: n.Figure | n.TableBlock, body: str, wide: bool, caption_above: bool) -> str:
        """What floats where it may; with its caption where it has a number."""
        before = self.counted(kind, node.number)
        side = {"left": "\\raggedright", "right": "\\raggedleft"}.get(node.align, "\\centering")
        if not node.number:
            opening = rf"\phantomsection\label{{{letters.label(node.label)}}}" if node.label else ""
            gap = r"\par\addvspace{\medskipamount}" if self.may_float else ""  # as far from the text as what floats
            return f"{gap}{{{side}\n{opening}{body}\\par}}{gap}"
        caption = self.caption(node)
        if not self.may_float:
            caption = caption.replace(r"\caption{", rf"\captionof{{{kind}}}{{", 1)
            parts = [caption, body] if caption_above else [body, caption]
            return f"{before}{{{side}\n" + "\n\n".join(parts) + "\\par}"
        name = f"{kind}*" if wide else kind
        parts = [caption, body] if caption_above else [body, caption]
        return f"{before}\\begin{{{name}}}[!htbp]\n{side}\n" + "\n".join(parts) + f"\n\\end{{{name}}}"

    def caption(self, node: n.Figure | n.TableBlock) -> str:
        label = rf"\label{{{letters.label(node.label)}}}" if node.label else ""
        return rf"\caption{{{self.running.words(node.caption)}}}{label}"

    def table(self, node: n.TableBlock) -> str:
        return self.running.with_notes_below(lambda: self._table(node))

    def _table(self, node: n.TableBlock) -> str:
        room, words = self.room, self.running.words
        may_break = self.may_float and (bool(node.number) or not self.is_hosted)
        made = laid(node.table, room, False, may_break, words)
        wide = self.two_columns and self.may_float and bool(node.number) and (len(made.bodies) > 1 or made.is_small)
        if wide:
            room = self.stationery.text_width
        if wide or (len(made.bodies) > 1 and self.may_float) or made.is_long:
            again = self.caption(node) if node.number else ""
            may_turn = may_break and not self.two_columns
            made = laid(node.table, room, may_turn, may_break, words, again)
        notes = notes_below(node.table, words)
        if made.is_long:
            return self.long_table(node, made, notes)
        body = "\n\n\\medskip\n".join(made.bodies)
        if notes:
            body += "\n\n\\smallskip\n{\\footnotesize\\raggedright " + "\\\\\n".join(notes) + "\\par}"
        body = f"{{{made.size}\n{body}}}" if made.size else body
        framed = self.captioned("table", node, body, wide, caption_above=True)
        return f"\\begin{{landscape}}\n{framed}\n\\end{{landscape}}" if made.on_its_side else framed

    def long_table(self, node: n.TableBlock, made: Laid, notes: list[str]) -> str:
        """A table that breaks across sheets; in two columns it has sheets of its own."""
        before = self.counted("table", node.number)
        body = "\n\n".join(made.bodies)
        below = ("\n{\\footnotesize\\noindent " + "\\\\\n".join(notes) + "\\par}") if notes else ""
        body = f"{before}{{{made.size}\n{body}\n}}{below}"
        if made.on_its_side:
            return f"\\begin{{landscape}}\n{body}\n\\end{{landscape}}"
        return f"\\onecolumn\n{body}\n\\twocolumn" if self.two_columns else body

    # --- lists at the end ---------------------------------------------------------------------

    def references(self, node: n.ReferenceList) -> str:
        if not node.entries:
            return ""
        items = "\n".join(
            rf"\item[{{{self.running.words(entry.label)}}}]\phantomsection\label{{{letters.label(entry.anchor)}}}{self.running.words(entry.words)}"
            for entry in node.entries
        )
        widest = max((words_of(entry.label) for entry in node.entries), key=len)
        return f"\\begin{{wornreferences}}{{{letters.text(widest)}}}\n{items}\n\\end{{wornreferences}}"

    def index(self, node: n.IndexList) -> str:
        lines = [line for entry in node.entries for line in self._index_lines(entry, "")]
        return "{\\raggedright\\small\n" + "\n\n".join(lines) + "\n\n}" if lines else ""

    def _index_lines(self, entry: n.IndexEntry, before: str) -> Iterable[str]:
        words = self.language.volume
        led = [rf"\emph{{{letters.text(words['see'])}}} {letters.text(one)}" for one in entry.see]
        led += [rf"\emph{{{letters.text(words['also'])}}} {letters.text(one)}" for one in entry.also]
        places = [rf"\pageref{{{letters.label(one.label)}}}" for one in entry.places]
        yield rf"\noindent{before} " + ", ".join([letters.text(entry.words), *places, *led])
        for one in entry.narrower:
            yield from self._index_lines(one, r"\hspace*{1.5em}")


def _author(person: n.Person, places: list[str]) -> dict[str, object]:
    return {
        "name": letters.text(person.name),
        "affiliations": [letters.text(place) for place in person.affiliations],
        "marks": ",".join(str(places.index(place) + 1) for place in person.affiliations),
        "email": letters.text(person.email),
        "corresponding": person.corresponding,
    }


def _begins_small(paragraph: n.Paragraph) -> bool:
    return words_of(paragraph.children)[:1].islower()


def _is_wide(node: n.Figure, column: float) -> bool:
    return len(node.pictures) > 1 or any(picture.width > column * 1.1 for picture in node.pictures)
