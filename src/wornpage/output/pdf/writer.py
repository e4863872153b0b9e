"""A composed page as PDF/UA-1: the tree in the typesetter's notation, the stationery for its looks."""

from __future__ import annotations

import os
import re
import tempfile
from collections.abc import Callable, Iterator, Mapping
from pathlib import Path
from typing import Any, assert_never

from wornpage.compose.indexing import letter_of
from wornpage.output.at_end import without_floats
from wornpage.output.audience import for_output
from wornpage.output.bounds import bounded
from wornpage.output.kind import Job, Written
from wornpage.output.left_out import left_out
from wornpage.output.outputs import options_in
from wornpage.output.paper import A4, sheet_of
from wornpage.output.pdf.fonts import Fonts, fonts_for
from wornpage.output.pdf.mathematics import equation
from wornpage.output.pdf.options import PdfPress
from wornpage.output.pdf.strings import breakable, code_text, string
from wornpage.output.sharing import shares
from wornpage.output.stationery import Stationery, find_stationery
from wornpage.output.widths import fit
from wornpage.settings import PageSettings
from wornpage.tree import nodes as n
from wornpage.tree.formula import letters_of
from wornpage.tree.language import Language
from wornpage.tree.problem import PageError, Problem, Severity
from wornpage.tree.span import Span
from wornpage.tree.walk import walk, words_of

NARROWEST = 8.0
"""Points: a table that would need smaller letters in its column goes across all columns."""
GUTTER = 0.6
"""Centimetres between things side by side."""
TALLEST = 21.0
"""Centimetres that a figure may be high and still leave room for its caption."""
_KNOWN_TO_SHEETS = ("a4", "letter")
"""Sizes that the stationery sets itself, margins and all."""
_SIDES = {"left": "left", "right": "right", "centre": "center"}
_IN_COLUMNS = {"left": "start", "right": "right", "centre": "center"}
_REPLACEMENT = "\ufffd"
_CONTROLS = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x9f\ufdd0-\ufdef\ufffe\uffff]")


def write_pdf(page: n.Composed, job: Job) -> Written:
    """Typeset `page`. Raises `PageError` where the typesetter refuses it."""
    settings, folder, name = job.settings, job.folder, job.name
    options: PdfPress = options_in(settings, "pdf")
    page, cut = bounded(for_output(page, "pdf"), "PDF")
    fonts = fonts_for(texts_of(page), [folder / path for path in options.fonts])
    problems = [*cut, *missing_letters(page, fonts, name)]
    stationery = find_stationery(settings.stationery, folder / name)
    writer = TypesetWriter(page.terms, fonts, stationery, options.paper)
    source = writer.document(page, settings, options)
    own = [folder / path for path in options.fonts]
    sheets = sheets_of(stationery, page.terms.right_to_left)
    data = typeset({**sheets, "page.typ": source}, writer.files, fonts, own, stationery, name)
    read = (*fonts.read, *own)
    return Written(data, (*problems, *writer.problems), read=read, fonts=fonts.of_system)


def typeset(
    texts: Mapping[str, str],
    files: Mapping[str, bytes],
    fonts: Fonts,
    own: list[Path],
    stationery: Stationery,
    name: str,
) -> bytes:
    """The sheets that `page.typ` of `texts` makes, with `files` beside it; `own` are folders with the page's own fonts.

    Raises `PageError` where the typesetter refuses it.
    """
    with tempfile.TemporaryDirectory(prefix="worn-") as place:
        root = Path(place)
        for file, text in texts.items():
            (root / file).write_text(text, encoding="utf-8")
        for file, data in files.items():
            (root / file).write_bytes(data)
        for path in fonts.files:
            (root / path.name).write_bytes(path.read_bytes())
        for file, path in stationery.assets.items():
            (root / file).parent.mkdir(parents=True, exist_ok=True)
            (root / file).write_bytes(path.read_bytes())
        has_fonts = bool(fonts.files or stationery.assets or any(file.endswith(".ttf") for file in files))
        return _typeset(root, [*own, *([root] if has_fonts else [])], stationery, name)


def _typeset(root: Path, fonts: list[Path], stationery: Stationery, name: str) -> bytes:
    import typst

    found = typst.Fonts(include_system_fonts=False, font_paths=fonts)
    try:
        made = typst.compile(
            root / "page.typ", root=root, font_paths=found, format="pdf", pdf_standards=["ua-1"], timestamp=0
        )
    except typst.TypstError as error:
        said = str(error.message).removeprefix("PDF/UA-1 error: ")
        what = f"the PDF cannot be typeset: {said.replace(f'{root}{os.sep}', '')}."
        own = _place_in(str(error.diagnostic), stationery)
        if own is not None:
            raise PageError([Problem(own, what, " ".join(error.hints))]) from error
        hint = "This is a fault of Worn Page: press to HTML, and please report it."
        raise PageError([Problem(Span(name, 1), what, hint)]) from error
    assert isinstance(made, bytes)
    return made


def _place_in(diagnostic: str, stationery: Stationery) -> Span | None:
    """The place in a file of one's own stationery that the typesetter complains of."""
    for match in re.finditer(r"─ (\S[^\n]*?):(\d+):(\d+)", diagnostic):
        file = match[1].replace("\\", "/").rpartition("/")[2]
        if stationery.folder is not None and (stationery.folder / file).is_file():
            return Span(f"{stationery.name}/{file}", int(match[2]), int(match[3]))
    return None


def texts_of(page: n.Composed, formulas: bool = True) -> Iterator[str]:
    """Every text that is set; with the letters of `formulas` or without."""
    yield page.plain_title
    yield page.head.date
    for person in page.head.authors:
        yield from (person.name, person.email, *person.affiliations)
    head = page.head
    trees = (*head.title, *head.subtitle, *head.abstract, *(i for k in head.keywords for i in k))
    for node in walk((*trees, *page.blocks)):
        for field in ("text", "code", "cut"):
            value = getattr(node, field, None)
            if isinstance(value, str):
                yield value
        if isinstance(node, n.CodeBlock):
            yield from (token.text for line in node.lines for token in line.tokens)
        if isinstance(node, n.TableBlock):
            yield from _table_texts(node.table)
        if formulas and isinstance(node, n.Math | n.MathBlock):
            yield from letters_of(node.formula)


def _table_texts(table: n.TextTable) -> Iterator[str]:
    for row in (*table.rows, *(words for _, words in table.notes)):
        yield from (node.text for node in walk(_flat(row)) if isinstance(node, n.Text))
    for heads in table.heads:
        yield from (words_of(cell.text) for cell in heads)


def _flat(items: tuple[Any, ...]) -> Iterator[n.Node]:
    for item in items:
        if isinstance(item, tuple):
            yield from _flat(item)
        else:
            yield item


def missing_letters(page: n.Composed, fonts: Fonts, name: str) -> list[Problem]:
    """One warning for each block that holds letters no font has."""
    if not fonts.missing:
        return []
    found: dict[str, Span] = {}
    for node in walk(page.blocks):
        for letter in sorted(fonts.missing.intersection(getattr(node, "text", "") or "")):
            found.setdefault(letter, node.span)
    for letter in fonts.missing:
        found.setdefault(letter, Span(name, 1))
    hint = "Name a folder with a font that has it under `press: {pdf: {fonts: …}}`."
    return [
        Problem(
            span,
            f"no font has the letter {letter!r} (U+{ord(letter):04X}); the PDF shows {_REPLACEMENT}.",
            hint,
            Severity.WARNING,
        )
        for letter, span in sorted(found.items(), key=lambda item: (item[1], item[0]))[:20]
        if not _CONTROLS.match(letter)
    ]


def sheets_of(stationery: Stationery, right_to_left: bool = False) -> dict[str, str]:
    """The typesetting files of a stationery: `sheet.typ`, which pages import, `base.typ`, which that may import, and
    `script.typ` with what is known of the script that the page is written in."""
    sheets = stationery.looks["sheet.typ"]
    script = f"#let right-to-left = {str(right_to_left).lower()}\n"
    return {"script.typ": script, "base.typ": sheets[0], "sheet.typ": sheets[-1]}


class TypesetWriter:
    """Writes nodes as the typesetter's notation; one method a node. Blocks are calls in code mode."""

    def __init__(self, language: Language, fonts: Fonts, stationery: Stationery, paper: str = "a4") -> None:
        self.language, self.fonts, self.stationery = language, fonts, stationery
        self.files: dict[str, bytes] = {}
        self.problems: list[Problem] = []
        self.noted: set[int] = set()
        sheet = sheet_of(paper)
        across = 1.0 if paper in _KNOWN_TO_SHEETS else sheet.width / A4[0]
        self.text_width, self.column_width = stationery.text_width * across, stationery.column_width * across
        self.tallest = min(TALLEST, sheet.height - A4[1] + TALLEST) if sheet.height > 15 else sheet.height * 0.55
        self.room = self.column_width
        """Centimetres from side to side where things now stand."""
        self.spreads = False
        """Whether what is written now stands across all columns."""

    # --- the whole ----------------------------------------------------------------------------

    def document(self, page: n.Composed, settings: PageSettings, options: PdfPress) -> str:
        """The whole source."""
        head = page.head
        authors = ", ".join(string(person.name) for person in head.authors)
        keywords = ", ".join(string(words_of(keyword)) for keyword in head.keywords)
        families = ", ".join(string(family) for family in self.fonts.families)
        opening = (
            f'#import "sheet.typ": *\n#show: sheets.with(title: {string(self.clean(page.plain_title))}, authors: ({_tuple(authors)}), '
            f"keywords: ({_tuple(keywords)}), language: {string(page.language.split('-')[0])}, paper: {string(options.paper)}, "
            f"fonts: ({_tuple(families)}), running: [{self.text(settings.running_title or page.plain_title)}])\n"
        )
        parts = [opening + self.size_of_sheets(options.paper)]
        if head.title:
            parts.append(self.title(page, settings))
        if options.contents and page.contents:
            parts.append(self.contents(self.language.contents, page.contents))
        if options.figures == "at-end":
            body, moved = without_floats(page.blocks, self.language)
            parts += [self.blocks(body), *(f"#pagebreak(weak: true)\n{self.block(block)}" for block in moved)]
        else:
            parts.append(self.blocks(page.blocks))
        return "\n".join(parts) + "\n"

    def size_of_sheets(self, paper: str) -> str:
        """What gives the sheets a size that the stationery does not know, with margins in its proportions."""
        if paper in _KNOWN_TO_SHEETS:
            return ""
        sheet = sheet_of(paper)
        side = (sheet.width - self.text_width) / 2
        top, bottom = sheet.height * 0.094, sheet.height * 0.1
        return (
            f"#set page(width: {sheet.width:.4g}cm, height: {sheet.height:.4g}cm, "
            f"margin: (x: {side:.4g}cm, top: {top:.4g}cm, bottom: {bottom:.4g}cm))\n"
        )

    def title(self, page: n.Composed, settings: PageSettings) -> str:
        head = page.head
        people = "".join(
            f"(name: {self.text_string(p.name)}, places: ({_tuple(', '.join(self.text_string(a) for a in p.affiliations))}), "
            f"email: {self.text_string(p.email)}, corresponding: {str(p.corresponding).lower()}),"
            for p in head.authors
        )
        keywords = '#text(", ");'.join(self.inlines(keyword) for keyword in head.keywords)
        parts = {
            "title": f"[{self.inlines(head.title)}]",
            "subtitle": f"[{self.inlines(head.subtitle)}]" if head.subtitle else "none",
            "authors": f"({people})",
            "date": f"[{self.text(head.date)}]" if head.date else "none",
            "abstract": f"[{self.blocks(head.abstract)}]" if head.abstract else "none",
            "abstract-word": string(self.language.abstract),
            "keywords": f"[{keywords}]" if head.keywords else "none",
            "keywords-word": string(self.language.keywords),
            "running": f"[{self.text(settings.running_title)}]" if settings.running_title else "none",
            "running-word": string(self.language.running_title),
            "words": string(self.language.length(page.words)),
            "corresponding-word": string(self.language.corresponding),
        }
        return f"#title-block({', '.join(f'{key}: {value}' for key, value in parts.items())})"

    def blocks(self, blocks: n.Blocks) -> str:
        return "\n\n".join(filter(None, (self.block(block) for block in blocks)))

    def inlines(self, inlines: n.Inlines) -> str:
        return "".join(self.inline(inline) for inline in inlines)

    # --- text ---------------------------------------------------------------------------------

    def clean(self, text: str) -> str:
        """`text` without letters that cannot be set."""
        if self.fonts.missing:
            text = "".join(_REPLACEMENT if letter in self.fonts.missing else letter for letter in text)
        return _CONTROLS.sub(_REPLACEMENT, text)

    def text_string(self, text: str) -> str:
        return string(self.clean(text))

    def text(self, text: str) -> str:
        """Text in markup."""
        return f"#{self.text_string(text)};" if text else ""

    def at(self, label: str) -> str:
        """What makes the place before it one that links lead to; nothing for no label."""
        return f"#label({string(label)})" if label else ""

    def inline(self, node: n.Inline) -> str:
        match n.composed_inline(node):
            case n.Text(text=text):
                return self.text(text)
            case n.Emphasis(children=children):
                return f"#emph[{self.inlines(children)}];"
            case n.Strong(children=children):
                return f"#strong[{self.inlines(children)}];"
            case n.Strike(children=children):
                return f"#strike[{self.inlines(children)}];"
            case n.Citation(anchor=anchor, children=children):
                return f"#metadata(none){self.at(anchor)};{self.inlines(children)}"
            case n.Raised(children=children, below=below):
                return f"#{'sub' if below else 'super'}[{self.inlines(children)}];"
            case n.SmallCaps(children=children):
                return f"#smallcaps[{self.inlines(children)}];"
            case n.Superscript(text=text):
                return f"#hung({self.text_string(text)});"
            case n.Code(text=text):
                return f"#text(font: code-font, size: 0.82em, dir: ltr, {string(breakable(self.clean(text)))});"
            case n.Answered(children=children):
                return self.inlines(children)
            case n.Link() as link:
                return self.link(link)
            case n.SoftBreak():
                return self.text(" ")
            case n.HardBreak():
                return "#linebreak();"
            case n.Math(formula=formula, alt=alt):
                return f"#{equation(formula, alt, display=False)};"
            case n.InlinePicture(picture=picture):
                return f"#box({self.picture(picture, self.room)});"
            case n.Footnote() as note:
                return self.footnote(note)
            case n.Anchor(label=label):
                return f"#metadata(none){self.at(label)};"
            case n.RawHtmlInline(html=html):
                if html.lower().startswith("<br"):
                    return "#linebreak();"
                self.left_out(node.span, html)
                return ""
            case never:
                assert_never(never)

    def link(self, node: n.Link) -> str:
        words = self.inlines(node.children)
        if node.to:
            return f"#link(label({string(node.to)}))[{words}];"
        if not node.address or not words:
            return words
        return f"#link({string(node.address)})[{words}];"

    def footnote(self, node: n.Footnote) -> str:
        name = f"worn-note-{node.number}"
        if node.number in self.noted:
            return f"#footnote(label({string(name)}));"
        self.noted.add(node.number)
        return f"#[#footnote[{self.blocks(node.blocks)}]#label({string(name)})];"

    def left_out(self, span: Span, html: str) -> None:
        """A tag meant for HTML alone is left out here; said once a line, and not for mere comments."""
        problem = left_out(span, html, "PDF")
        if problem is not None and problem not in self.problems:
            self.problems.append(problem)

    # --- blocks -------------------------------------------------------------------------------

    def block(self, node: n.Block) -> str:
        match n.composed_block(node):
            case n.Heading() as it:
                shown = f"{it.word} {it.number}" if it.word else it.number
                words = f"numbered({string(shown)}, [{self.inlines(it.children)}])"
                return f"#heading(level: {it.level}, {words}){self.at(it.label)}"
            case n.PartTitle(children=children, label=label, number=number, word=word):
                return f"#part-title({string(f'{word} {number}'.strip())}, [{self.inlines(children)}], label({string(label)}))"
            case n.Paragraph(children=children):
                return self.inlines(children)
            case n.Quote(blocks=blocks):
                return f"#quoted[{self.blocks(blocks)}]"
            case n.List() as it:
                return self.item_list(it)
            case n.Definitions(entries=entries):
                return "\n\n".join(self.definition(entry) for entry in entries)
            case n.Rule() as it:
                return "#ruled"
            case n.RawHtmlBlock(html=html):
                self.left_out(node.span, html)
                return ""
            case n.Container() as it:
                return self.container(it)
            case n.ChunkView(blocks=blocks):
                return self.blocks(blocks)
            case n.CodeBlock() as it:
                return self.code(it)
            case n.OutputText() as it:
                return self.output(it)
            case n.Figure() as it:
                return self.figure(it)
            case n.TableBlock() as it:
                return self.table(it)
            case n.MathBlock() as it:
                made = equation(it.formula, it.alt, display=True, number=it.number)
                return f"#{made}{self.at(it.label)}"
            case n.RichHtml(text=text):
                return self.output(n.OutputText(node.span, text, "output"))
            case n.ContentsList(entries=entries):
                return self.contents(None, entries)
            case n.AppendixBreak() | n.SlideBreak():
                return ""
            case n.AboutHere(words=words):
                return f"#about-here[{self.text(words)}]"
            case n.IndexList() as it:
                return self.index(it)
            case n.ReferenceList() as it:
                return self.references(it)
            case n.SheetBreak(right_hand=right_hand):
                return "#right-hand()" if right_hand else "#pagebreak(weak: true)"
            case never:
                assert_never(never)

    def item_list(self, node: n.List) -> str:
        items = ", ".join(f"[{self.item(item)}]" for item in node.items)
        tight = f"tight: {str(node.tight).lower()}"
        if node.ordered:
            return f"#enum({tight}, start: {node.start}, {items})"
        marker = "marker: [], " if all(item.done is not None for item in node.items) else ""
        return f"#list({marker}{tight}, {items})"

    def item(self, item: n.Item) -> str:
        box = "" if item.done is None else self.text("☑ " if item.done else "☐ ")
        return box + self.blocks(item.blocks)

    def definition(self, node: n.Definition) -> str:
        meanings = "".join(f"#pad(left: 1.5em)[{self.blocks(meaning)}]" for meaning in node.meanings)
        return f"#block(below: 0.5em, sticky: true, strong[{self.inlines(node.term)}]){meanings}"

    def container(self, node: n.Container) -> str:
        if node.chosen:
            return self.blocks(node.blocks)
        label = self.at(node.attributes.label)
        if node.kind == "side-by-side":
            return self.columns(node) + label
        title = f"title: [{self.inlines(node.title)}]" if node.title else ""
        return f"#box-of({string(node.kind)}, {title})[{self.inside(self.text_width - 0.8, node.blocks)}]{label}"

    def inside(self, room: float, blocks: n.Blocks) -> str:
        """Blocks where there are only `room` centimetres from side to side."""
        outer, self.room = self.room, min(room, self.room)
        made = self.blocks(blocks)
        self.room = outer
        return made

    def columns(self, node: n.Container) -> str:
        widths = shares(node)
        room = self.room - GUTTER * (len(widths) - 1)
        cells = [
            self.inside(room * width / sum(widths), (block,)) for block, width in zip(node.blocks, widths, strict=True)
        ]
        tracks = ", ".join(f"{width:g}fr" for width in widths)
        return f"#side-by-side(({tracks},), {GUTTER}cm, {', '.join(f'[{cell}]' for cell in cells)})"

    # --- code ---------------------------------------------------------------------------------

    def code(self, node: n.CodeBlock) -> str:
        lines = "".join(self.code_line(line, node, node.first_number + i) for i, line in enumerate(node.lines))
        asides = ", ".join(f"[{self.inlines(words)}]" for words in node.asides)
        made = f"code(breaks: {str(len(node.lines) > 12).lower()})[{lines}]" + (
            f" + asides({asides})" if asides else ""
        )
        if not node.label:
            return "#{" + made + "}" if asides else "#" + made
        word, breaks = string(node.word), str(_is_long(node)).lower()
        words = f"[{self.inlines(node.caption)}]"
        label = self.at(node.label)
        return f"#listing({word}, {string(node.number)}, {words}, breaks: {breaks}, {{{made}}}){label}"

    def code_line(self, line: n.CodeLine, node: n.CodeBlock, number: int) -> str:
        tokens = "".join(self.token(token) for token in line.tokens) or '#"\u200b";'
        if line.aside:
            tokens += f"#aside({string(str(line.aside))});"
        options = f"number: {string(str(number) if number > 0 else '')}, " if node.numbered else ""
        return f"#code-line({options}picked: {str(line.picked).lower()})[{tokens}];"

    def token(self, token: n.Token) -> str:
        words = code_text(self.clean(token.text))
        return f"#role({string(token.role)}, {words});" if token.role else f"#{words};"

    def output(self, node: n.OutputText) -> str:
        lines = "#linebreak();".join(f"#{code_text(self.clean(line))};" for line in node.text.split("\n"))
        cut = f", cut: {self.text_string('… ' + node.cut)}" if node.cut else ""
        return f"#output({string(node.role)}{cut})[{lines}]"

    # --- figures and tables -------------------------------------------------------------------

    def captioned(self, kind: str, node: n.Figure | n.TableBlock, body: str) -> str:
        words = f"[{self.inlines(node.caption)}]" if node.number else "none"
        side = _SIDES.get(getattr(node, "align", "left"), "left")
        label = self.at(node.label)
        breaks = str(_is_long(node)).lower()
        wide = str(self.spreads).lower()
        made = (
            f"captioned({kind}, {string(node.word)}, {string(node.number)}, {words}, side: {side}, breaks: {breaks}, "
            f"wide: {wide}, {body})"
        )
        return f"#{made}{label}"

    def is_wide(self, node: n.Figure | n.TableBlock) -> bool:
        """Whether something wants more than a column, where there are several and the whole width is to be had."""
        column, whole = self.column_width, self.text_width
        if self.room != column or whole <= column or not node.number or _is_long(node):
            return False  # what is long must break, and only what stands in a column can
        if isinstance(node, n.Figure):
            return len(node.pictures) > 1 or any(picture.width > column * 1.1 for picture in node.pictures)
        fitted = fit(node.table, column)
        return fitted.size < NARROWEST or len(fitted.groups) > 1

    def figure(self, node: n.Figure) -> str:
        if not self.is_wide(node):
            return self.figure_within(node)
        return self.at_whole_width(lambda: self.figure_within(node))

    def at_whole_width(self, write: Callable[[], str]) -> str:
        """What `write` gives where there is the room of all columns."""
        self.room, self.spreads = self.text_width, True
        made = write()
        self.room, self.spreads = self.column_width, False
        return made

    def figure_within(self, node: n.Figure) -> str:
        if len(node.pictures) == 1:
            return self.captioned("image", node, self.picture(node.pictures[0], self.room))
        room = self.room / 2 - 0.25
        made = [f"part({string(one.letter)}, {self.picture(one, room)})" for one in node.pictures]
        return self.captioned("image", node, f"parts({', '.join(made)})")

    def picture(self, picture: n.Picture, room: float) -> str:
        """An image call no wider than `room` centimetres."""
        width, height = picture.width, picture.height
        factor = min(1.0, room / width if width else 1.0, self.tallest / height if height else 1.0)
        size = f"width: {width * factor:.4g}cm, " if width else f"width: {room:.4g}cm, "
        kind = {"jpeg": "jpg"}.get(picture.format, picture.format)
        file = f"picture-{len(self.files) + 1}.{kind}"
        self.files[file] = picture.data
        return f"image({string(file)}, {size}alt: {self.text_string(picture.alt or 'Picture')})"

    def table(self, node: n.TableBlock) -> str:
        if self.is_wide(node):
            return self.at_whole_width(lambda: self.table_within(node))
        return self.table_within(node)

    def table_within(self, node: n.TableBlock) -> str:
        fitted = fit(node.table, self.room)
        parts = [self.table_part(node.table, group, fitted.size, fitted.wraps) for group in fitted.groups]
        note = (
            f"\n#block(above: 0.5em, text(size: 8pt, fill: soft)[{self.text('… ' + node.table.note)}])"
            if node.table.note
            else ""
        )
        if node.table.notes:
            words = "#linebreak();".join(self.table_note(*each) for each in node.table.notes)
            note += f"\n#table-notes({parts[0]}, [{words}])"
        body = "[" + "\n#v(0.8em)\n".join(f"#{part}" for part in parts) + note + "]"
        return self.captioned("table", node, body)

    def table_part(self, table: n.TextTable, group: tuple[int, ...], size: float, wraps: frozenset[int]) -> str:
        columns = ", ".join("1fr" if place in wraps else "auto" for place in group)
        aligns = ", ".join(_IN_COLUMNS.get(table.aligns[place], "start") for place in group)
        head, rules = self.heads(table, group)
        has_note = any(isinstance(node, n.Footnote) for row in table.heads for cell in row for node in walk(cell.text))
        wholes = [number for number in range(len(table.rows)) if table.kind(number) != "continued"]
        cells = ", ".join(self.row(table, number, group) for number in wholes)
        return (
            f"tabled(size: {size}pt, columns: ({columns},), aligns: ({aligns},), head: ({_tuple(', '.join(head))}), "
            f"head-rows: {len(table.heads)}, repeats: {str(not has_note).lower()}, rules: ({_tuple(', '.join(rules))}), {cells})"
        )

    def row(self, table: n.TextTable, number: int, group: tuple[int, ...]) -> str:
        """The cells of a row, with the rows that go on with it, from which no sheet parts it.

        Words above a group stand over all columns, and a line above the foot.
        """
        first, row, kind = number, table.rows[number], table.kind(number)
        if kind == "group":
            return f"table.cell(colspan: {len(group)}, group-words[{self.inlines(row[0])}])"
        indent = "group" in table.kinds[:number] and kind != "foot"
        words = [[("#h(1em);" if indent and not place else "") + self.inlines(row[place])] for place in group]
        while table.kind(number + 1) == "continued":
            number += 1
            for lines, place in zip(words, group, strict=True):
                lines.append(self.inlines(table.rows[number][place]))
        cells = [f"[{lines[0]}]" if len(lines) == 1 else _kept_together(lines) for lines in words]
        if kind == "foot" and table.kind(first - 1) != "foot":
            cells.insert(0, "table.hline(stroke: 0.5pt + soft)")
        return ", ".join(cells)

    def table_note(self, mark: str, words: n.Inlines) -> str:
        return (f"#super({string(mark)});" if mark else "") + self.inlines(words)

    def heads(self, table: n.TextTable, group: tuple[int, ...]) -> tuple[list[str], list[str]]:
        """Head cells of the columns in `group`, and the rules under those that span several."""
        cells, rules = [], []
        for level, row in enumerate(table.heads):
            column = 0
            for cell in row:
                covered = [place for place in range(column, column + cell.span) if place in group]
                column += cell.span
                if not covered:
                    continue
                words = f"strong[{self.inlines(cell.text)}]" if cell.text else "[]"
                if cell.span > 1:
                    first = group.index(covered[0])
                    cells.append(f"table.cell(colspan: {len(covered)}, align: center, {words})")
                    rules.append(
                        f"table.hline(y: {level + 1}, start: {first}, end: {first + len(covered)}, stroke: 0.4pt + hair)"
                    )
                else:
                    cells.append(words)
        return cells, rules

    def index(self, node: n.IndexList) -> str:
        """Terms with the sheets that they are named on."""
        made = "".join(
            self.index_entry(letter_of(entry.words), entry)
            + "".join(self.index_entry("", one) for one in entry.narrower)
            for entry in node.entries
        )
        return f"#index-list({made})" if made else ""

    def index_entry(self, letter: str, entry: n.IndexEntry) -> str:
        words = self.language.volume
        led = [(words["see"], one) for one in entry.see] + [(words["also"], one) for one in entry.also]
        further = '#text("; ");'.join(f"#emph[{self.text(word)}]; {self.text(other)}" for word, other in led)
        places = _tuple(", ".join(string(one.label) for one in entry.places))
        return f"(letter: {self.text_string(letter)}, words: {self.text_string(entry.words)}, places: ({places}), further: [{further}]), "

    def references(self, node: n.ReferenceList) -> str:
        entries = ", ".join(
            f"(id: {string(entry.anchor)}, label: [{self.inlines(entry.label)}], words: [{self.inlines(entry.words)}], "
            f"back: {string(entry.backs[0].label if entry.backs else '')})"
            for entry in node.entries
        )
        labelled = str(any(entry.label for entry in node.entries)).lower()
        return f"#references(labelled: {labelled}, {entries})" if entries else ""

    def contents(self, title: str | None, entries: tuple[n.ContentsEntry, ...]) -> str:
        made = ", ".join(
            f"(level: {e.level}, number: {string(e.number)}, label: {string(e.label)}, words: [{self.inlines(e.children)}], part: {str(e.is_part).lower()})"
            for e in entries
        )
        shown = string(title) if title else "none"
        return f"#contents-list({shown}, {made})"


def _is_long(node: n.Figure | n.TableBlock | n.CodeBlock) -> bool:
    """Whether a captioned thing may break across sheets: a short one is kept together."""
    if isinstance(node, n.TableBlock):
        return len(node.table.rows) > 14
    if isinstance(node, n.Figure):  # two parts stand beside each other
        return sum(max(one.height, one.width * 0.5) + 0.8 for one in node.pictures[::2]) > TALLEST
    return isinstance(node, n.CodeBlock) and len(node.lines) > 25


def _kept_together(lines: list[str]) -> str:
    """A cell of several lines that all stand on one sheet."""
    return f"table.cell(breakable: false, [{'#linebreak();'.join(lines)}])"


def _tuple(items: str) -> str:
    """Items of an array; a single one keeps its comma."""
    return items + "," if items else ""
