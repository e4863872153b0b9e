"""From Markdown's tokens to our nodes."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

from markdown_it.token import Token as MdToken
from msgspec import Struct
from msgspec.structs import replace

from wornpage.source import captions, stepping
from wornpage.source.attributes import read_attributes
from wornpage.source.grammar import DEEPEST, grammar
from wornpage.source.header import is_chunk, listing_info, parse_header
from wornpage.source.marks.insert import insert_mark
from wornpage.source.marks.table import READERS
from wornpage.source.marks.verbs import command_of, verb_of
from wornpage.source.naming import name_chunks, name_headings
from wornpage.source.notes import note_problems
from wornpage.source.pieces import Piece
from wornpage.source.places import Lie, Places, first_cell, lie_of
from wornpage.source.placing import AT
from wornpage.source.sections import Sections
from wornpage.source.shield import CLOSE, RUN, Shielded, index_of, shield
from wornpage.source.tags import image_of, with_meanings
from wornpage.tree import nodes as n
from wornpage.tree.problem import Problem, Severity
from wornpage.tree.span import Span
from wornpage.tree.walk import rewrite, walk

_TASK = re.compile(r"\[([ xX])\][ \t]+")
_CLOSING = re.compile(r"^[ \t>]*(`{3,}|~{3,})[ \t]*$")
_SOME_OUTPUTS = re.compile(r"(?:not )?in [\w-]+(?:,\s*[\w-]+)*")
"""What a `:::` block is called that is meant for some outputs."""
_ALIGN = {"left": "left", "right": "right", "center": "centre"}


class Built(Struct, frozen=True):
    """What the body of a page makes."""

    blocks: n.Blocks
    chunks: tuple[n.Chunk, ...]
    problems: tuple[Problem, ...]


def build(text: str, file: str, top: str = "top", sections: Sections | None = None) -> Built:
    """The tree of a page's body, its chunks in order, and every fault found on the way.

    `top` is what unlabelled chunks above the first heading are named after; `sections` remembers what was parsed before.
    """
    shielded = shield(text, file)
    found: dict[str, Any] = {}
    tokens = sections.tokens(shielded.text, found) if sections else grammar().parse(shielded.text, found)
    builder = _Builder(shielded, file)
    blocks = builder.blocks(tokens)
    deep = next((token for token in tokens if token.level >= DEEPEST - 2), None)
    if deep is not None:
        line = deep.map[0] + 1 if deep.map else 1
        what = "here lists, quotes or boxes are nested deeper than a page can show."
        builder.problems.append(Problem(Span(file, line), what, "About 45 levels are possible."))
    notes = note_problems(tokens, found.get("footnotes", {}).get("refs", {}), blocks, builder.lines, file)
    builder.problems += notes
    blocks, chunk_problems = name_chunks(blocks, top)
    blocks, heading_problems = name_headings(blocks)
    chunks = tuple(node for node in walk(blocks) if isinstance(node, n.Chunk))
    problems = (*shielded.problems, *builder.problems, *chunk_problems, *heading_problems)
    return Built(blocks, chunks, problems)


def build_inlines(text: str, span: Span) -> tuple[n.Inlines, list[Problem]]:
    """Running text that stands elsewhere than in the body, such as a title, and its faults."""
    padding = "\n" * (span.line - 1) + " " * (span.column - 1)
    shielded = shield(padding + " ".join(text.split("\n")), span.file)
    builder = _Builder(shielded, span.file)
    builder.has_tags = False
    inline = grammar().parseInline(shielded.text.strip())[0]
    inline.map = [span.line - 1, span.line]
    inlines = _settle(builder.running(inline, span))
    # A title is words: a tag in it was never meant as one.
    inlines = rewrite(inlines, lambda node: n.Text(node.span, node.html) if isinstance(node, n.RawHtmlInline) else None)
    return inlines, [*shielded.problems, *builder.problems]


class _Builder:
    """Walks the tokens once. `at` methods get the tokens of one construct without its open and close."""

    def __init__(self, shielded: Shielded, file: str) -> None:
        self.shielded = shielded
        self.file = file
        self.lines = shielded.text.split("\n")
        self.problems: list[Problem] = []
        self.has_tags = True
        """Whether tags of HTML mean something in running text."""
        self.places = Places(shielded, file)
        self.lie: Lie | None = None
        """Where the running text at hand lies in the page."""
        self.notes: dict[int, n.Blocks] = {}
        self.unread_notes: dict[int, list[MdToken]] = {}
        """Notes that nobody has called yet, and that are not built."""
        self.noted: set[int] = set()

    # --- blocks -------------------------------------------------------------------------------

    def blocks(self, tokens: list[MdToken]) -> n.Blocks:
        """The blocks that `tokens` make, captions already joined to what they belong to."""
        self._collect_notes(tokens)
        return self._sequence(tokens)

    def _collect_notes(self, tokens: list[MdToken]) -> None:
        for group in _groups(tokens):
            if group[0].type == "footnote_block_open":
                for note in _groups(group[1:-1]):
                    inner = [token for token in note[1:-1] if token.type != "footnote_anchor"]
                    self._find_note(inner)
                    self.unread_notes[int(note[0].meta["id"])] = inner
        for number in list(self.unread_notes):
            self._note(number)

    def _note(self, number: int) -> n.Blocks:
        """What a note says; one that is called within another is built before it."""
        inner = self.unread_notes.pop(number, None)
        if inner is not None:
            before = self.lie
            self.notes[number] = self._sequence(inner)
            self.lie = before
        return self.notes.get(number, ())

    def _find_note(self, tokens: list[MdToken]) -> None:
        """The words of a note that is written within a sentence come without their lines."""
        words = next((token.content for token in tokens if token.type == "inline" and token.map is None), "")
        at = self.shielded.text.find(f"^[{words}]") if words else -1
        if at >= 0:
            first = self.shielded.text.count("\n", 0, at)
            for token in tokens:
                token.map = [first, first + words.count("\n") + 1]

    def _sequence(self, tokens: list[MdToken]) -> n.Blocks:
        made: list[n.Block] = []
        for group in _groups(tokens):
            method: Callable[[list[MdToken]], n.Block | None] | None
            method = getattr(self, f"_{group[0].type.removesuffix('_open')}", None)
            block = method(group) if method else None
            if block is not None:
                made.append(block)
        blocks, problems = captions.attach(made)
        blocks, further = stepping.attach(blocks)
        self.problems += [*problems, *further]
        return blocks

    def _span(self, token: MdToken) -> Span:
        first, last = token.map or (0, 1)
        column = len(self.lines[first]) - len(self.lines[first].lstrip(" \t")) + 1 if self.lines else 1
        return Span(self.file, first + 1, column, last)

    def _inlines_of(self, group: list[MdToken]) -> n.Inlines:
        for token in group:
            if token.type == "inline":
                return _settle(self.running(token, self._span(token)))
        return ()

    def _heading(self, group: list[MdToken]) -> n.Block:
        span = self._span(group[0])
        children, attributes = self._take_attributes(self.running(group[1], span))
        children = _settle(children)
        return n.Heading(self._span(group[0]), int(group[0].tag[1]), children, attributes)

    def _paragraph(self, group: list[MdToken]) -> n.Block | None:
        span, inline = self._span(group[0]), group[1]
        alone = self._alone(inline)
        if alone is not None:
            return alone
        children = _settle(self.running(inline, span))
        pictures = _only_images(children)
        if pictures:
            return n.PictureBlock(span, pictures)
        return n.Paragraph(span, _unescape_caption(children), bool(group[0].hidden))

    def _alone(self, inline: MdToken) -> n.Block | None:
        """A display formula or a command that is the whole of a paragraph."""
        pieces = [t for t in inline.children or [] if not (t.type == "text" and not t.content)]
        if len(pieces) != 1 or pieces[0].type != "piece":
            return None
        piece = self._piece_of(pieces[0])
        if piece.kind == "display":
            return n.RawMathBlock(piece.span, piece.raw[2:-2])
        verb = piece.raw[1:-1]
        if verb.startswith("insert "):
            insert, problem = insert_mark(piece, piece.raw)
            self.problems += [problem] if problem else []
            return insert or n.Paragraph(piece.span, ())
        command = command_of(piece.raw)
        if not command:
            return None
        further = command != verb
        attributes = self._attributes(piece.raw, piece.span, "slides", len(command)) if further else n.NO_ATTRIBUTES
        return n.Command(piece.span, command, attributes)

    def _block_attributes(self, group: list[MdToken]) -> n.Block:
        span = self._span(group[0])
        return stepping.AttributeLine(span, self._attributes(group[0].content, span, "blocks"))

    def _caption(self, group: list[MdToken]) -> n.Block:
        span, meta = self._span(group[0]), group[0].meta
        if meta["word"] == "Label":
            label = self.shielded.restore(group[1].content).strip().removeprefix("#")
            return n.Caption(span, (), label=label)
        return n.Caption(span, self._inlines_of(group), meta["kind"])

    def _blockquote(self, group: list[MdToken]) -> n.Block:
        return n.Quote(self._span(group[0]), self._sequence(group[1:-1]))

    def _bullet_list(self, group: list[MdToken]) -> n.Block:
        items = tuple(self._item(item) for item in _groups(group[1:-1]))
        tight = all(not (isinstance(block, n.Paragraph) and not block.tight) for item in items for block in item.blocks)
        ordered = group[0].type == "ordered_list_open"
        start = int(group[0].attrGet("start") or 1) if group[0].attrGet("start") != 0 else 0
        return n.List(self._span(group[0]), items, ordered, start, tight)

    _ordered_list = _bullet_list

    def _item(self, group: list[MdToken]) -> n.Item:
        blocks, done = self._sequence(group[1:-1]), None
        if blocks and isinstance(blocks[0], n.Paragraph) and blocks[0].children:
            first = blocks[0].children[0]
            match = _TASK.match(first.text) if isinstance(first, n.Text) else None
            if match and isinstance(first, n.Text):
                done = match[1] != " "
                at = first.span.at(first.span.line, first.span.column + match.end())
                rest = (replace(first, span=at, text=first.text[match.end() :]), *blocks[0].children[1:])
                blocks = (replace(blocks[0], children=rest), *blocks[1:])
        return n.Item(self._span(group[0]), blocks, done)

    def _dl(self, group: list[MdToken]) -> n.Block:
        entries: list[n.Definition] = []
        for part in _groups(group[1:-1]):
            if part[0].type == "dt_open":
                entries.append(n.Definition(self._span(part[0]), self._inlines_of(part), ()))
            elif entries:
                meanings = (*entries[-1].meanings, self._sequence(part[1:-1]))
                entries[-1] = replace(entries[-1], meanings=meanings)
        return n.Definitions(self._span(group[0]), tuple(entries))

    def _table(self, group: list[MdToken]) -> n.Block:
        rows: list[tuple[n.Inlines, ...]] = []
        aligns: tuple[str, ...] = ()
        for row in _deep_groups(group, "tr_open"):
            cells = _groups(row[1:-1])
            rows.append(self._cells(cells))
            aligns = aligns or tuple(_cell_align(cell[0]) for cell in cells)
        return n.PipeTable(self._span(group[0]), rows[0], aligns, tuple(rows[1:]))

    def _cells(self, cells: list[list[MdToken]]) -> tuple[n.Inlines, ...]:
        """The words of a row, whose cells stand one behind the other in a line."""
        made: list[n.Inlines] = []
        line = (cells[0][1].map or (0, 0))[0] if cells else 0
        after = first_cell(self.lines[line]) if self.lines else 0
        for cell in cells:
            inline = cell[1]
            lie = lie_of(inline.content, self.lines, (inline.map or (0, 0))[0], after) if inline.content else None
            made.append(_settle(self.running(inline, self._span(inline), lie)))
            after = lie.place(len(inline.content))[1] if lie else after
        return tuple(made)

    def _hr(self, group: list[MdToken]) -> n.Block:
        return n.Rule(self._span(group[0]))

    def _html_block(self, group: list[MdToken]) -> n.Block:
        span, html = self._span(group[0]), self.shielded.restore(group[0].content)
        image = self._image_of(html, span)
        return n.PictureBlock(span, (image,)) if image else n.RawHtmlBlock(span, html)

    def _code_block(self, group: list[MdToken]) -> n.Block:
        code = self.shielded.restore(group[0].content)
        return n.Listing(self._span(group[0]), "", code)

    def _fence(self, group: list[MdToken]) -> n.Block:
        token, span = group[0], self._span(group[0])
        code = self.shielded.restore(token.content)
        info = self.shielded.restore(token.info).strip()
        self._check_closed(token, span, code)
        if not is_chunk(info):
            language, label = listing_info(info)
            return n.Listing(span, language, code, label=label)
        line = self.shielded.restore(self.lines[span.line - 1])
        column = line.index(token.markup) + len(token.markup) + 1
        column += len(line[column - 1 :]) - len(line[column - 1 :].lstrip())
        header = parse_header(info, span.at(span.line, column))
        self.problems += header.problems
        return n.Chunk(
            span,
            header.language,
            header.label,
            bool(header.label),
            header.options,
            code,
            span.line + 1,
            line.strip(),
            span.column - 1,
        )

    def _check_closed(self, token: MdToken, span: Span, code: str) -> None:
        """A fence must end, and before the next one begins."""
        inner = re.search(rf"^[ \t]*{token.markup}{token.markup[0]}*[ \t]*\w+[ \t]+run\b", code, re.MULTILINE)
        if inner:
            line = span.line + 1 + code.count("\n", 0, inner.start())
            what = f"the fence that begins here is not closed before the chunk in line {line} begins."
            self.problems.append(Problem(span, what, f"Put a line with {token.markup} after its last line."))
            return
        last = self.lines[span.end_line - 1] if span.end_line > span.line else ""
        match = _CLOSING.match(last)
        if not (match and match[1].startswith(token.markup)):
            what = f"the fence that begins here is never closed with {token.markup}."
            self.problems.append(Problem(span, what, f"Put a line with {token.markup} after its last line."))

    def _container_box(self, group: list[MdToken]) -> n.Block:
        token, span = group[0], self._span(group[0])
        info = token.info.strip()
        closing = self.lines[token.map[1]] if token.map and token.map[1] < len(self.lines) else ""
        if not closing.strip(" \t>").startswith(":::"):
            what = f"the `:::` block that begins here is never closed with {token.markup}."
            self.problems.append(Problem(span, what, f"Put a line with {token.markup} at its end."))
        attributes, words = n.NO_ATTRIBUTES, " ".join(self.shielded.restore(info).split())
        match = RUN.search(info) if info.endswith(CLOSE) else None
        piece = self.shielded.pieces[index_of(match)] if match else None
        if piece is not None and piece.kind == "attributes":
            attributes = self._attributes(piece.raw, piece.span, "boxes")
            words = words.removesuffix(" ".join(piece.raw.split())).strip()
        kind, _, title = words.partition(" ")
        if _SOME_OUTPUTS.fullmatch(words):
            kind, title = words, ""
        written = self.shielded.restore(self.lines[span.line - 1]).find(title)
        inlines, problems = build_inlines(title, span.at(span.line, max(written, 0) + 1)) if title else ((), [])
        self.problems += problems
        return n.Container(span, kind, attributes, self._sequence(group[1:-1]), inlines)

    # --- running text -------------------------------------------------------------------------

    def running(self, inline: MdToken, span: Span, lie: Lie | None = None) -> n.Inlines:
        """The running text of a block, in which an attribute list may still look for its heading."""
        before = self.lie
        self.lie = lie or (lie_of(inline.content, self.lines, inline.map[0]) if inline.map else None)
        try:
            return self._raw_inlines(inline.children or [], span)
        finally:
            self.lie = before

    def inlines(self, tokens: list[MdToken], span: Span) -> n.Inlines:
        """What stands within something, such as a link."""
        return _settle(self._raw_inlines(tokens, span))

    def _raw_inlines(self, tokens: list[MdToken], span: Span) -> n.Inlines:
        made: list[n.Inline] = []
        for group in _groups(tokens):
            made += self._inline(group, span)
        joined = _join_texts(self._give_images_attributes(made))
        return with_meanings(joined) if self.has_tags else joined

    def _attributes(self, raw: str, span: Span, kind: str, after: int = 0) -> n.Attributes:
        """What an attribute list says; `after` letters of it are a verb."""
        attributes, problems = read_attributes("{" + " " * after + raw[after + 1 :], span, kind)
        self.problems += problems
        return attributes

    def _give_images_attributes(self, inlines: list[n.Inline]) -> list[n.Inline]:
        made: list[n.Inline] = []
        for node in inlines:
            if isinstance(node, _Pending) and made and isinstance(made[-1], n.Image):
                made[-1] = replace(made[-1], attributes=self._attributes(node.raw, node.span, "images"))
            else:
                made.append(node)
        return made

    def _take_attributes(self, children: n.Inlines) -> tuple[n.Inlines, n.Attributes]:
        """A heading's words without the attribute list at their end, and that list."""
        if not children or not isinstance(children[-1], _Pending):
            return children, n.NO_ATTRIBUTES
        rest = list(children[:-1])
        if rest and isinstance(rest[-1], n.Text):
            rest[-1] = replace(rest[-1], text=rest[-1].text.rstrip())
        return tuple(rest), self._attributes(children[-1].raw, children[-1].span, "headings")

    def _inline(self, group: list[MdToken], span: Span) -> list[n.Inline]:
        token = group[0]
        inner = group[1:-1]
        block, span = span, self.places.span(token, self.lie, span)
        match token.type:
            case "text" | "text_special":
                return [n.Text(span, self.shielded.restore(token.content))] if token.content else []
            case "em_open":
                return [n.Emphasis(span, self.inlines(inner, block))]
            case "strong_open":
                return [n.Strong(span, self.inlines(inner, block))]
            case "s_open":
                return [n.Strike(span, self.inlines(inner, block))]
            case "code_inline":
                return [n.Code(span, self.shielded.restore(token.content))]
            case "softbreak":
                return [n.SoftBreak(span)]
            case "hardbreak":
                return [n.HardBreak(span)]
            case "html_inline":
                html = self.shielded.restore(token.content)
                return [(self._image_of(html, block) if self.has_tags else None) or n.RawHtmlInline(span, html)]
            case "link_open":
                target, title = str(token.attrGet("href") or ""), str(token.attrGet("title") or "")
                label = target[1:] if target.startswith("#") else ""
                return [n.Link(span, "" if label else target, title, self.inlines(inner, block), label)]
            case "image":
                alt = self._instead(token, block)
                return [n.Image(self._place_of(str(token.attrGet("src") or ""), block),
                                str(token.attrGet("src") or ""), str(token.attrGet("title") or ""), alt)]  # fmt: skip
            case "footnote_ref":
                return [self._footnote(token, span)]
            case "piece":
                return [self._piece(self._piece_of(token))]
        return []

    def _instead(self, token: MdToken, block: Span) -> n.Inlines:
        """The words that stand for an image; their places are told from where they begin."""
        before, at = self.lie, token.meta.get(AT)
        if before is not None:
            self.lie = replace(before, within=before.within + at + len("![")) if at is not None else None
        try:
            return self.inlines(token.children or [], block)
        finally:
            self.lie = before

    def _image_of(self, html: str, span: Span) -> n.Image | None:
        image = image_of(html, span)
        return replace(image, span=self._place_of(image.source, span)) if image else None

    def _place_of(self, source: str, span: Span) -> Span:
        """Where an image's path stands inside its block."""
        for number in range(span.line, max(span.end_line, span.line) + 1):
            found = re.search(r"""[("'=]""" + re.escape(source), self.shielded.restore(self.lines[number - 1]))
            if source and found:
                return span.at(number, found.start() + 2)
        return span

    def _footnote(self, token: MdToken, span: Span) -> n.Inline:
        number = int(token.meta["id"])
        first = number not in self.noted
        self.noted.add(number)
        return n.Footnote(span, str(number + 1), self._note(number), first=first)

    def _piece_of(self, token: MdToken) -> Piece:
        piece: Piece = self.shielded.pieces[token.meta["index"]]
        return piece

    def _piece(self, piece: Piece) -> n.Inline:
        if piece.kind == "math":
            return n.RawMath(piece.span, piece.raw[1:-1])
        if piece.kind == "display":
            return n.RawMath(piece.span, piece.raw[2:-2])
        if piece.kind == "attributes":
            return _Pending(piece.span, piece.raw)
        return self._mark(piece)

    def _mark(self, piece: Piece) -> n.Inline:
        reader = READERS.get(verb_of(piece.raw))
        mark, problem = reader(piece, piece.raw) if reader else (n.Text(piece.span, piece.raw), _misplaced(piece))
        if problem:
            self.problems.append(problem)
        return mark


class _Pending(n.Inline, frozen=True):
    """An attribute list that has not found its heading or image yet."""

    raw: str


def _misplaced(piece: Piece) -> Problem:
    verb = piece.raw[1:-1].split()[0]
    what = f"{piece.raw} must stand alone in a paragraph."
    severity = Severity.ERROR if verb == "insert" else Severity.WARNING
    return Problem(piece.span, what, "Put blank lines around it.", severity)


def _groups(tokens: list[MdToken]) -> list[list[MdToken]]:
    """Cut a flat list of tokens into constructs: a lone token, or everything from an open to its close."""
    found: list[list[MdToken]] = []
    depth = 0
    for token in tokens:
        if depth == 0:
            found.append([])
        found[-1].append(token)
        depth += token.nesting
    return found


def _deep_groups(tokens: list[MdToken], kind: str) -> list[list[MdToken]]:
    """The constructs of one kind, one or two levels down."""
    found: list[list[MdToken]] = []
    for group in _groups(tokens[1:-1]):
        if group[0].type == kind:
            found.append(group)
        else:
            found += [inner for inner in _groups(group[1:-1]) if inner[0].type == kind]
    return found


def _cell_align(token: MdToken) -> str:
    style = str(token.attrGet("style") or "")
    return _ALIGN.get(style.removeprefix("text-align:"), "")


def _join_texts(inlines: list[n.Inline]) -> n.Inlines:
    joined: list[n.Inline] = []
    for node in inlines:
        if isinstance(node, n.Text) and joined and isinstance(joined[-1], n.Text):
            joined[-1] = replace(joined[-1], text=joined[-1].text + node.text)
        else:
            joined.append(node)
    return tuple(joined)


def _settle(children: n.Inlines) -> n.Inlines:
    """Attribute lists that belong to nothing are the text they were."""
    if not any(isinstance(node, _Pending) for node in children):
        return children
    return _join_texts([n.Text(c.span, c.raw) if isinstance(c, _Pending) else c for c in children])


def _only_images(children: n.Inlines) -> tuple[n.Image, ...]:
    """The images of a paragraph that holds nothing else; none otherwise."""
    images = []
    for node in children:
        if isinstance(node, n.Image):
            images.append(node)
        elif not isinstance(node, n.SoftBreak) and not (isinstance(node, n.Text) and not node.text.strip()):
            return ()
    return tuple(images)


def _unescape_caption(children: n.Inlines) -> n.Inlines:
    if children and isinstance(children[0], n.Text) and children[0].text.startswith(("\\Caption", "\\Label")):
        return (replace(children[0], text=children[0].text[1:]), *children[1:])
    return children
