"""A composed page as one HTML file that needs nothing else."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from html import escape
from itertools import groupby
from typing import assert_never

from msgspec.structs import replace

from wornpage.compose.indexing import letter_of
from wornpage.compose.language import language_of
from wornpage.output.audience import for_output
from wornpage.output.frame import FrameFault, framed
from wornpage.output.html.around import Beside, pieces_around, sections_of, told, volume_style
from wornpage.output.html.body import Body, all_of
from wornpage.output.html.drawing import drawing
from wornpage.output.html.live import Libraries, live_script, living
from wornpage.output.html.mathfont import math_style
from wornpage.output.html.mathml import mathml, running_mathml
from wornpage.output.html.options import HtmlPress
from wornpage.output.html.origins import Asked, Origins, origins_style
from wornpage.output.html.readers import OF_READERS, Readers, tools_of
from wornpage.output.html.rich import rich
from wornpage.output.html.sheets import inner_style, style_of
from wornpage.output.kind import Job, Written
from wornpage.output.links import is_safe
from wornpage.output.outputs import options_in
from wornpage.output.sharing import shares
from wornpage.output.site import Around
from wornpage.output.stationery import Stationery, find_stationery
from wornpage.tree import nodes as n
from wornpage.tree.files import as_utf8, file_text
from wornpage.tree.language import Language
from wornpage.tree.problem import PageError, Problem, Severity
from wornpage.tree.span import Span
from wornpage.tree.walk import words_of

Mark = Callable[[n.Block, str], str]
"""What is made of the HTML of each block of the page's own level."""


def write_html(page: n.Composed, job: Job) -> Written:
    """One file that needs nothing else; `job.mark` (`Mark`) may change the HTML of each block."""
    body = body_of(page, job)
    controls = job.controls
    if controls is None:
        return page_of(body, job)
    others = replace(job, lineage=None)  # of which other values would be told
    states = [(state.given, body_of(state.page, others)) for state in controls.states]
    return page_of(body, job, Readers(controls, states))


def body_of(page: n.Composed, job: Job) -> Body:
    """The page itself."""
    page = for_output(page, "html")
    language, head, around, mark = page.terms, page.head, job.around, job.mark
    writer = HtmlWriter(language, bool(head.title), around, job.name)
    writer.with_chunks = options_in(job.settings, "html").code_switch != "no"
    if job.lineage is not None:
        writer.origins = Origins(job.lineage, job.name)
    elif job.mark is not None:
        writer.origins = Asked()
    made = [(block, writer.block(block)) for block in page.blocks]
    pieces = {
        "title": writer.number(page.word, page.number) + writer.inlines(head.title),
        "subtitle": writer.inlines(head.subtitle),
        "date": escape(head.date, quote=False),
        "abstract": writer.blocks(head.abstract),
        "keywords": ", ".join(writer.inlines(keyword) for keyword in head.keywords),
        "contents": writer.contents(page.contents),
        "notes": writer.notes(),
    }
    values = {
        "language": page.language,
        "direction": "rtl" if language.right_to_left else "ltr",
        "plain_title": page.plain_title,
        "authors": [_author(person) for person in head.authors],
        "plain_keywords": ", ".join(words_of(keyword) for keyword in head.keywords),
        "words": _words(language),
        "running_title": job.settings.running_title or page.plain_title,
        "word_count": page.terms.length(page.words),
    }
    sections = sections_of(page.contents, writer.inlines) if around is not None else ""
    blocks = tuple(mark(block, html) if mark else html for block, html in made if html)
    return Body(
        pieces,
        blocks,
        values,
        sections,
        told(head) if around is not None else {},
        len(page.contents) > 1,
        writer.libraries.packed,
        writer.origins.script(language) if writer.origins is not None else "",
    )


def page_of(body: Body, job: Job, readers: Readers | None = None) -> Written:
    """The page in its frame."""
    settings, folder, around = job.settings, job.folder, job.around
    options: HtmlPress = options_in(settings, "html")
    stationery = find_stationery(settings.stationery, folder / job.name)
    wanted = "side" if around is not None else options.contents if body.has_contents else "none"
    own = style_of(stationery, "page.css")
    further = [inner_style(file_text(folder / path), (folder / path).parent, path) for path in options.stylesheets]
    pieces = {
        "style": own.text,
        "further_style": "\n".join(
            [
                *([volume_style()] if around is not None else []),
                *([origins_style()] if body.origins else []),
                *(one.text for one in further),
            ]
        ),
        "further_head": file_text(folder / options.head) if options.head else "",
        **body.pieces,
        **dict.fromkeys(_OF_VOLUMES, ""),
    }
    terms = language_of(body.values["language"])
    tools, script, blocks = tools_of(body, readers, options, terms)
    shown = [body, *(state for _, state in readers.states)] if readers is not None else [body]
    libraries = {name: text for one in shown for name, text in one.libraries.items()}
    script = live_script("".join(all_of(one) for one in shown), libraries) + script + body.origins
    pieces |= {"body": "\n".join(blocks), "reader_tools": tools, "reader_script": script}
    if readers is not None and any(state.pieces["notes"] for _, state in readers.states):
        pieces["notes"] = pieces["notes"] or "<!--none-->"  # there must be room for them
    if around is not None:
        pieces |= pieces_around(around, terms, body.sections, body.said)
    pieces["math_style"] = math_style("".join(all_of(one) for one in shown))
    values = {**body.values, "side": wanted == "side", "above": wanted == "above"}
    try:
        text = framed(stationery.looks["page.html.j2"][-1], pieces, values)
    except FrameFault as fault:
        where = f"{stationery.name}/page.html.j2" if stationery.folder else job.name
        raise PageError([Problem(Span(where, fault.line), fault.what, fault.hint)]) from None
    problems = tuple(problem for sheet in (own, *further) for problem in sheet.problems)
    problems += _without_room(stationery, _OF_VOLUMES, "volumes need") if around is not None else ()
    problems += _without_room(stationery, OF_READERS, "tools for readers need") if tools or script else ()
    read = tuple(path for sheet in (own, *further) for path in sheet.read)
    return Written(as_utf8(text.rstrip("\n") + "\n"), problems, read=read)


def inlines_alone(words: n.Inlines, language: Language) -> str:
    """Running text by itself, such as a title that other pages name."""
    return HtmlWriter(language, titled=True).inlines(words)


_OF_VOLUMES = ("volume_tools", "volume_ways", "volume_head", "volume_script")
"""Pieces that pages of a volume have."""


def _without_room(stationery: Stationery, wanted: Sequence[str], who: str) -> tuple[Problem, ...]:
    """What is wrong with a frame that has no place for pieces that are wanted."""
    lacking = [name for name in wanted if name not in stationery.looks["page.html.j2"][-1]]
    if not lacking:
        return ()
    what = f"the frame of the page has no place for {', '.join(f'{{{{ {name} }}}}' for name in lacking)}, which {who}."
    hint = "`worn stationery copy report` shows where they stand."
    return (Problem(Span(f"{stationery.name}/page.html.j2", 1), what, hint, Severity.WARNING),)


def _author(person: n.Person) -> dict[str, object]:
    return {
        "name": person.name, "affiliations": person.affiliations, "email": person.email,
        "corresponding": person.corresponding,
    }  # fmt: skip


def _words(language: Language) -> dict[str, str]:
    return {
        "contents": language.contents,
        "abstract": language.abstract,
        "keywords": language.keywords,
        "notes": language.notes,
        "skip": language.skip,
    }


class HtmlWriter:
    """Writes nodes; one method a node."""

    def __init__(self, language: Language, titled: bool, around: Around | None = None, name: str = "") -> None:
        self.language, self.around, self.name = language, around, name
        self.beside = Beside(around, language) if around is not None else None
        self.shift = 1 if titled else 0
        """How much deeper headings are: the title is the first level."""
        self.libraries = Libraries()
        """What figures that live need."""
        self.origins: Asked | None = None
        """What can be asked of where things come from."""
        self.inside = ""
        """The label of the chunk whose results are written now."""
        self.with_chunks = False
        """Whether what a chunk shows is told apart as one."""
        self.drawn = 0
        self.footnotes: list[n.Footnote] = []
        self.calls: dict[int, int] = {}

    def blocks(self, blocks: n.Blocks) -> str:
        return "\n".join(filter(None, (self.block(block) for block in blocks)))

    def inlines(self, inlines: n.Inlines) -> str:
        return "".join(self.inline(inline) for inline in inlines)

    # --- running text -------------------------------------------------------------------------

    def inline(self, node: n.Inline) -> str:
        match n.composed_inline(node):
            case n.Text(text=text):
                return _text(text)
            case n.Emphasis(children=children):
                return f"<em>{self.inlines(children)}</em>"
            case n.Strong(children=children):
                return f"<strong>{self.inlines(children)}</strong>"
            case n.Strike(children=children):
                return f"<s>{self.inlines(children)}</s>"
            case n.Citation(anchor=anchor, children=children):
                return f'<span class="cite" id="{escape(self.label(anchor))}">{self.inlines(children)}</span>'
            case n.Raised(children=children, below=below):
                tag = "sub" if below else "sup"
                return f"<{tag}>{self.inlines(children)}</{tag}>"
            case n.SmallCaps(children=children):
                return f'<span class="small-caps">{self.inlines(children)}</span>'
            case n.Superscript(text=text):
                return f'<sup class="mark">{_text(text)}</sup>'
            case n.Code(text=text):
                return f"<code>{_text(text)}</code>"
            case n.Answered() as it:
                return self.answered(it)
            case n.Link() as link:
                return self.link(link)
            case n.SoftBreak():
                return "\n"
            case n.HardBreak():
                return "<br>\n"
            case n.Math(formula=formula, alt=alt):
                return running_mathml(formula, alt)
            case n.InlinePicture(picture=picture):
                self.drawn += 1
                return self.drawn_as(picture)
            case n.Footnote() as note:
                return self.footnote(note)
            case n.Anchor(label=label):
                return f'<span id="{escape(self.label(label))}"></span>'
            case n.RawHtmlInline(html=html):
                return html
            case never:
                assert_never(never)

    def answered(self, node: n.Answered) -> str:
        """A value: with all its digits where it has more, and with where it comes from where that can be asked."""
        inner, exact = self.inlines(node.children), escape(node.exact)
        digits = f' value="{exact}" title="{exact}"' if exact else ""
        origin = self.origins.of_mark(node) if self.origins is not None else ""
        if digits:
            return f"<data{digits}{origin}>{inner}</data>"
        return f"<span{origin}>{inner}</span>" if origin else inner

    def origin(self) -> str:
        """An attribute of what the chunk at hand shows."""
        return self.origins.of_chunk(self.inside) if self.origins is not None and self.inside else ""

    def link(self, node: n.Link) -> str:
        target = self.place(node.to, node.page) if node.to else node.address if is_safe(node.address) else ""
        title = f' title="{escape(node.title)}"' if node.title else ""
        return f'<a href="{escape(target)}"{title}>{self.inlines(node.children)}</a>'

    def place(self, label: str, page: str) -> str:
        """The address of a place, on this page or on another of the volume."""
        return (self.around.to_page(page) if self.around is not None else "") + f"#{label}"

    def label(self, label: str) -> str:
        """A label as an id."""
        return label

    def drawn_as(self, picture: n.Picture) -> str:
        """A picture, the last that was counted."""
        if picture.live is None:
            return drawing(picture, self.drawn)
        still = drawing(picture, self.drawn) if picture.data else ""
        return living(picture, still, self.libraries, self.scales_figures)

    scales_figures = False
    """Whether figures are as large as the room that is left them."""

    def number(self, word: str, number: str) -> str:
        """What stands before a title."""
        shown = f"{word}\u00a0{number}" if word and number and not number.isdigit() else number
        return f'<span class="number">{escape(shown)}</span>' if shown else ""

    def ways_from(self, node: n.Heading | n.Figure | n.TableBlock | n.CodeBlock, said: str) -> str:
        """In a volume: what stands beside a heading or a caption."""
        if self.beside is None or not node.label:
            return ""
        is_own = node.span.file == self.name and not node.span.within
        return self.beside.of(node.label, node.span.line if is_own else 0, said)

    def footnote(self, node: n.Footnote) -> str:
        """A call of a note; the note itself comes later."""
        number = node.number
        if number not in self.calls:
            self.footnotes.append(node)
        self.calls[number] = self.calls.get(number, 0) + 1
        place = f"call-{number}" if self.calls[number] == 1 else f"call-{number}-{self.calls[number]}"
        return f'<a class="noteref" id="{place}" href="#note-{number}" role="doc-noteref"{self.noteref}>{number}</a>'

    noteref = ""
    """What further attributes calls of notes have."""

    def notes(self) -> str:
        """The notes called so far. Notes may call notes."""
        made: list[str] = []
        while len(made) < len(self.footnotes):
            note = self.footnotes[len(made)]
            made.append(self.note(note.number, self.blocks(note.blocks)))
        return "\n".join(made)

    def note(self, number: int, body: str) -> str:
        """A note, with a way back."""
        back = f' <a href="#call-{number}" role="doc-backlink" aria-label="{number}">↩</a>'
        body = body[: -len("</p>")] + back + "</p>" if body.endswith("</p>") else body + f"<p>{back}</p>"
        return f'<li id="note-{number}" value="{number}">{body}</li>'

    # --- blocks -------------------------------------------------------------------------------

    def block(self, node: n.Block) -> str:
        match n.composed_block(node):
            case n.Heading() as it:
                return self.heading(it)
            case n.PartTitle(children=children, label=label, number=number, word=word):
                return f'<p class="part-title" id="{escape(self.label(label))}">{self.number(word, number)}{self.inlines(children)}</p>'
            case n.Paragraph(children=children, tight=tight):
                return self.inlines(children) if tight else f"<p>{self.inlines(children)}</p>"
            case n.Quote(blocks=blocks):
                return f"<blockquote>\n{self.blocks(blocks)}\n</blockquote>"
            case n.List() as it:
                return self.item_list(it)
            case n.Definitions(entries=entries):
                return "<dl>\n" + "\n".join(self.definition(entry) for entry in entries) + "\n</dl>"
            case n.Rule() as it:
                return "<hr>"
            case n.RawHtmlBlock(html=html):
                return html.rstrip("\n")
            case n.Container() as it:
                return self.container(it)
            case n.ChunkView(label=label, blocks=blocks):
                outer, self.inside = self.inside, label
                made = self.chunk(blocks)
                self.inside = outer
                return made
            case n.CodeBlock() as it:
                return self.code(it)
            case n.OutputText() as it:
                return self.output(it)
            case n.Figure() as it:
                return self.figure(it)
            case n.TableBlock() as it:
                return self.table(it)
            case n.MathBlock() as it:
                return self.math(it)
            case n.RichHtml(html=html, text=text):
                return f'<div class="rich">\n{rich(html, text)}\n</div>'
            case n.ContentsList(entries=entries, kind=kind):
                name = getattr(self.language, kind)
                if self.around is not None:  # beside the contents of the volume
                    name = f"{name}: {self.around.own.plain if self.around.own is not None else self.around.site.title}"
                return f'<nav class="above" aria-label="{escape(name)}">\n{self.contents(entries)}\n</nav>'
            case n.AppendixBreak() | n.SlideBreak():
                return ""
            case n.IndexList() as it:
                return self.index(it)
            case n.ReferenceList() as it:
                return self.references(it)
            case n.SheetBreak():
                return '<div style="break-before:page"></div>'
            case n.AboutHere(words=words):
                return f'<p class="about-here">{_text(words)}</p>'
            case never:
                assert_never(never)

    def heading(self, node: n.Heading) -> str:
        level = min(node.level + self.shift, 6)
        shown = f"{node.word}\u00a0{node.number}" if node.word else node.number
        number = f'<span class="number">{shown}</span>' if shown else ""
        words = self.inlines(node.children)
        beside = self.ways_from(node, f"{shown} {words_of(node.children)}".strip())
        return f'<h{level} id="{escape(self.label(node.label))}">{number}{words}{beside}</h{level}>'

    def item_list(self, node: n.List) -> str:
        tag = "ol" if node.ordered else "ul"
        start = f' start="{node.start}"' if node.ordered and node.start != 1 else ""
        items = "\n".join(f"<li{self.item_look(item)}>{self.item(item)}</li>" for item in node.items)
        return f"<{tag}{start}>\n{items}\n</{tag}>"

    def item_look(self, node: n.Item) -> str:
        """Attributes of an item."""
        return "" if node.done is None else ' class="task"'

    def item(self, node: n.Item) -> str:
        body = self.blocks(node.blocks)
        if node.done is None:
            return body
        ticked = " checked" if node.done else ""
        words = escape(
            words_of(first.children) if isinstance(first := next(iter(node.blocks), None), n.Paragraph) else ""
        )
        box = f'<input type="checkbox" disabled{ticked} aria-label="{words}">'
        return f"<p>{box}{body.removeprefix('<p>')}" if body.startswith("<p>") else box + body

    def definition(self, node: n.Definition) -> str:
        meanings = "\n".join(f"<dd>{self.blocks(meaning)}</dd>" for meaning in node.meanings)
        return f"<dt>{self.inlines(node.term)}</dt>\n{meanings}"

    def container(self, node: n.Container) -> str:
        if node.chosen:
            return self.blocks(node.blocks)
        label = f' id="{escape(self.label(node.attributes.label))}"' if node.attributes.label else ""
        if node.kind == "side-by-side":
            return self.columns(node, label)
        kind = "".join(letter if letter.isalnum() else "-" for letter in node.kind.lower())
        classes = " ".join(["box", f"of-{kind}", *node.attributes.classes])
        named = f' aria-label="{escape(words_of(node.title))}"' if node.title else ""
        title = f'<p class="box-title">{self.inlines(node.title)}</p>\n' if node.title else ""
        return f'<div class="{escape(classes)}"{label} role="note"{named}>\n{title}{self.blocks(node.blocks)}\n</div>'

    def columns(self, node: n.Container, label: str) -> str:
        """Blocks beside each other, below each other where there is no room."""
        widths = shares(node)
        cells = "\n".join(f"<div>{self.block(block)}</div>" for block in node.blocks)
        tracks = " ".join(f"minmax(0, {width:g}fr)" for width in widths)
        return f'<div class="side-by-side"{label} style="--columns:{tracks}">\n{cells}\n</div>'

    # --- code ---------------------------------------------------------------------------------

    def chunk(self, blocks: n.Blocks) -> str:
        """What a chunk shows; told apart where readers may have its code beside the rest."""
        made = self.blocks(blocks)
        has_code = self.with_chunks and any(isinstance(block, n.CodeBlock) for block in blocks)
        return f'<div class="chunk{"" if len(blocks) > 1 else " alone"}">\n{made}\n</div>' if has_code else made

    def code(self, node: n.CodeBlock) -> str:
        lines = "".join(self.code_line(line, node.first_number + i) for i, line in enumerate(node.lines))
        numbered = " numbered" if node.numbered else ""
        kind = f' data-language="{escape(node.language)}"' if node.language else ""
        pre = f'<pre tabindex="0"{kind}><code>{lines}</code></pre>'
        asides = "".join(f"<li>{self.inlines(words)}</li>" for words in node.asides)
        after = f'\n<ol class="asides">{asides}</ol>' if asides else ""
        if node.tucked:
            name = f"{self.language.code_word}: {escape(node.name)}"
            return f'<details class="code{numbered}"><summary>{name}</summary>{pre}{after}</details>'
        made = f'<div class="code{numbered}">{pre}{after}</div>'
        if not node.label:
            return made
        caption = self.caption(node)
        return f'<figure class="listing" id="{escape(self.label(node.label))}">\n{caption}\n{made}\n</figure>'

    def code_line(self, line: n.CodeLine, number: int) -> str:
        tokens = "".join(
            f'<a class="doc" href="{escape(link)}">{shown}</a>' if link else shown
            for link, group in groupby(line.tokens, key=lambda token: token.link)
            for shown in ["".join(map(_token, group))]
        )
        aside = f'<span class="aside">{line.aside}</span>' if line.aside else ""
        shown = number if number > 0 else ""
        return f'<span class="line{" picked" if line.picked else ""}" data-line="{shown}"{self.line_look(line)}>{tokens}{aside}\n</span>'

    def line_look(self, line: n.CodeLine) -> str:
        """Further attributes of a line of code."""
        return ""

    def output(self, node: n.OutputText) -> str:
        cut = f'\n<p class="cut">… {_text(node.cut)}</p>' if node.cut else ""
        return f'<div class="output {node.role}"><pre tabindex="0">{_text(node.text)}</pre>{cut}</div>'

    # --- figures, tables, mathematics ---------------------------------------------------------

    def caption(self, node: n.Figure | n.TableBlock | n.CodeBlock) -> str:
        shown = f'<span class="number">{node.word}\u00a0{node.number}</span>' if node.number else ""
        beside = self.ways_from(node, f"{node.word} {node.number}") if node.number else ""
        return f"<figcaption>{shown}{self.inlines(node.caption)}{beside}</figcaption>"

    def figure(self, node: n.Figure) -> str:
        pictures = []
        for picture in node.pictures:
            self.drawn += 1
            drawn = f'<div class="picture"{self.picture_look(picture)}>{self.drawn_as(picture)}</div>'
            letter = f'<div class="letter">({picture.letter})</div>' if picture.letter else ""
            pictures.append(f"<div>{drawn}{letter}</div>" if len(node.pictures) > 1 else drawn)
        body = f'<div class="parts">{"".join(pictures)}</div>' if len(pictures) > 1 else "".join(pictures)
        label = f' id="{escape(self.label(node.label))}"' if node.label else ""
        caption = "\n" + self.caption(node) if node.number else ""
        return f'<figure class="{node.align}"{label}{self.origin()}>\n{body}{caption}\n</figure>'

    def picture_look(self, picture: n.Picture) -> str:
        """Further attributes of what stands around a picture."""
        return ""

    def table(self, node: n.TableBlock) -> str:
        table = node.table
        last = len(table.heads) - 1
        heads = "\n".join(self.head_row(row, table, level == last) for level, row in enumerate(table.heads))
        looks = [f"{align}{' short' if _is_short(table, i) else ''}" for i, align in enumerate(table.aligns)]
        rows = "\n".join(self.row(table, place, looks) for place in range(len(table.rows)))
        thead = f"<thead>\n{heads}\n</thead>\n" if table.heads else ""
        words = escape(words_of(node.caption)) or self.language.table[0]
        body = (
            f'<div class="scroll" tabindex="0" role="group" aria-label="{words}">'
            f"<table{_room_for_marks(table)}>\n{thead}<tbody>\n{rows}\n</tbody>\n</table></div>"
        )
        note = f'\n<p class="remainder">… {_text(table.note)}</p>' if table.note else ""
        note += "".join(f'\n<p class="note">{self.table_note(*parts)}</p>' for parts in table.notes)
        label = f' id="{escape(self.label(node.label))}"' if node.label else ""
        caption = self.caption(node) + "\n" if node.number else ""
        return f'<figure class="table {node.align}"{label}{self.origin()}>\n{caption}<div class="fit">{body}{note}</div>\n</figure>'

    def head_row(self, row: tuple[n.HeadCell, ...], table: n.TextTable, last: bool) -> str:
        cells, column = [], 0
        for cell in row:
            words = self.inlines(cell.text)
            span = f' colspan="{cell.span}"' if cell.span > 1 else ""
            if not words:
                cells.append(f"<td{span}></td>")
            elif cell.span > 1:
                cells.append(f'<th scope="colgroup" {span.strip()} class="spans">{words}</th>')
            else:
                cells.append(f'<th scope="col" class="{table.aligns[column]}">{_with_spoken_math(words)}</th>')
            column += cell.span
        return f"<tr>{''.join(cells)}</tr>"

    def table_note(self, mark: str, words: n.Inlines) -> str:
        return (f"<sup>{_text(mark)}</sup> " if mark else "") + self.inlines(words)

    def row(self, table: n.TextTable, number: int, looks: list[str]) -> str:
        row, kind_of_row = table.rows[number], table.kind(number)
        if kind_of_row == "group":
            words = self.inlines(row[0])
            return f'<tr class="group"><th scope="rowgroup" colspan="{len(looks)}">{words}</th></tr>'
        cells = []
        for place, (cell, kind) in enumerate(zip(row, looks, strict=True)):
            words, named = self.inlines(cell), "" if kind == "left" else f' class="{kind}"'
            is_head = place < table.index_columns and words
            cells.append(f'<th scope="row"{named}>{words}</th>' if is_head else f"<td{named}>{words}</td>")
        first_of_foot = kind_of_row == "foot" and table.kind(number - 1) != "foot"
        named = "foot" if first_of_foot else kind_of_row
        return f"<tr{f' class={chr(34)}{named}{chr(34)}' if named else ''}>{''.join(cells)}</tr>"

    def math(self, node: n.MathBlock) -> str:
        label = f' id="{escape(self.label(node.label))}"' if node.label else ""
        number = f'<span class="number">({node.number})</span>' if node.number else ""
        inner = mathml(node.formula, node.alt, display=True)
        return f'<div class="display"{label}><div class="scroll" tabindex="0" role="group" aria-label="{escape(node.alt)}">{inner}</div>{number}</div>'

    def index(self, node: n.IndexList) -> str:
        """Terms under their letters, each with links to where it is named."""
        groups = groupby(node.entries, key=lambda entry: letter_of(entry.words))
        made = "\n".join(
            f'<li><span class="letter">{letter}</span><ul>{"".join(map(self.index_entry, entries))}</ul></li>'
            for letter, entries in groups
        )
        return f'<ul class="terms">\n{made}\n</ul>' if made else ""

    def index_entry(self, entry: n.IndexEntry) -> str:
        places = ", ".join(
            f'<a href="{escape(self.place(one.label, one.page))}">{_text(one.said)}</a>' for one in entry.places
        )
        words = self.language.volume
        led = [(words["see"], one) for one in entry.see] + [(words["also"], one) for one in entry.also]
        further = "; ".join(f"<em>{_text(word)}</em> {_text(other)}" for word, other in led)
        below = f"<ul>{''.join(map(self.index_entry, entry.narrower))}</ul>" if entry.narrower else ""
        said = ", ".join(filter(None, (places, further)))
        return f"<li>{_text(entry.words)}{', ' if said else ''}{said}{below}</li>"

    def references(self, node: n.ReferenceList) -> str:
        """The list of references; each entry leads back to where it is cited."""
        entries = "\n".join(self.reference(entry) for entry in node.entries)
        kind = "labelled" if any(entry.label for entry in node.entries) else "hanging"
        return f'<ul class="references {kind}" role="list">\n{entries}\n</ul>' if entries else ""

    def reference(self, entry: n.Reference) -> str:
        backs = " ".join(
            f'<a href="{escape(self.place(spot.label, spot.page))}" aria-label="{self.language.cited_at} {number}">↩{"" if len(entry.backs) == 1 else f"<sup>{number}</sup>"}</a>'
            for number, spot in enumerate(entry.backs[:12], 1)
        )
        label = f'<span class="label">{self.inlines(entry.label)}</span>' if entry.label else ""
        return f'<li id="{escape(self.label(entry.anchor))}">{label}<span>{self.inlines(entry.words)} <span class="backs">{backs}</span></span></li>'

    # --- contents -----------------------------------------------------------------------------

    def contents(self, entries: tuple[n.ContentsEntry, ...]) -> str:
        """Nested lists of links."""
        made, depth = "<ol>", 1
        for place, entry in enumerate(entries):
            level = min(entry.level, depth + 1) if place else 1
            if place and level > depth:
                made += "<ol>"
            elif place:
                made += "</li>" + "</ol></li>" * (depth - level)
            depth = level
            number = f'<span class="number">{entry.number}</span>' if entry.number else ""
            words = self.inlines(entry.children)
            target = self.place(entry.label, entry.page)
            made += (
                f'<li><a href="{escape(target)}">{number}{words}</a>' if entry.label else f"<li><b>{number}{words}</b>"
            )
        return made + "</li></ol>" * depth if entries else ""


def _with_spoken_math(html: str) -> str:
    """Formulas in a head, their words beside them: readers' aids pass over a head of mathematics alone."""
    return _MATH_TAG.sub(r'<span class="unseen">\1</span><math aria-hidden="true" alttext="\1"', html)


_MATH_TAG = re.compile(r'<math alttext="([^"]*)"')


def _token(token: n.Token) -> str:
    return f'<span class="c-{token.role}">{_text(token.text)}</span>' if token.role else _text(token.text)


def _room_for_marks(table: n.TextTable) -> str:
    """How many letters of marks stand out at the end of the last column, where nothing beside it gives them room."""
    last = [row[-1] for row in table.plain_rows if row] + [row[-1].text for row in table.heads if row]
    most = max((sum(len(one.text) for one in cell if isinstance(one, n.Superscript)) for cell in last), default=0)
    return f' style="--marks: {most}"' if most > 1 else ""


def _is_short(table: n.TextTable, column: int) -> bool:
    """Whether every cell of a column is short enough to stand on one line."""
    return all(len(words_of(row[column])) <= _SHORT for row in table.plain_rows)


_SHORT = 26
"""Letters: a moment has so many."""


_CONTROLS = dict.fromkeys([*range(9), 11, 12, *range(14, 32), *range(127, 160), 65534, 65535], "�")
_CONTROLS |= dict.fromkeys(range(64976, 65008), "�")


def _text(text: str) -> str:
    """Text as HTML; control letters, which no page may hold, as replacement signs."""
    return escape(text.translate(_CONTROLS), quote=False)
