"""How tall blocks are on a slide, by the letters' own widths: no browser and no typesetter is asked.

Points are those of `Shape`. The numbers are the ones of the style sheet `slides.css`; change both together.
"""

from __future__ import annotations

import re
from collections.abc import Iterator

from msgspec import Struct
from msgspec.structs import replace

from wornpage.output.deck.letters import MONO, lines_of, natural_width, width_of
from wornpage.output.deck.model import POINTS_A_CENTIMETRE, SECTION, TITLE, Shape, Slide
from wornpage.output.sharing import shares
from wornpage.tree import formula as f
from wornpage.tree import nodes as n
from wornpage.tree.walk import walk, words_of

LEADING = 1.4
_HEAD_LEADING = 1.15
_CODE_LEADING = 1.45
_CODE_PADDING = 12.0
_INDENT = 1.3
"""Ems that items of a list stand in."""
_CELL = (20.0, 9.0)
"""Left free in a cell of a table: across and up."""
_LEAST_FIGURE = 150.0
"""A figure takes what the slide leaves it, and needs this at least."""
BETWEEN_COLUMNS = 32.0
_BETWEEN_PARTS = 24.0
_RICH = 220.0
_SHORT = 26
"""Letters of cells that stay on one line, if no cell of their column has more."""
_TAG = re.compile(r"<[^>]*>")
_BOX = (20.0, 12.0)


class Needs(Struct, frozen=True):
    """What the blocks of a slide need of the room for them, in points."""

    height: float
    room: float
    across: float = 0.0
    """How wide the widest is, as a share of the width there is for it."""

    @property
    def down(self) -> float:
        """How tall they are, as a share of the height there is for them."""
        return self.height / self.room

    @property
    def share(self) -> float:
        """More than 1 where they do not fit."""
        return max(self.down, self.across)


def height_of(slide: Slide, shape: Shape) -> Needs:
    """How much of a slide its blocks need."""
    room = float(shape.height - shape.top - shape.foot)
    if slide.kind in {TITLE, SECTION}:
        return Needs(0.0, room)
    measure = Measure(shape, slide.scale)
    if slide.title and slide.look.titled:
        words = (n.Text(slide.span, f"{slide.number} "), *slide.title) if slide.number else slide.title
        room -= lines_of(words, shape.inner / shape.title, bold=True) * shape.title * _HEAD_LEADING + 20
    height = measure.blocks(slide.blocks, shape.inner) + measure.notes(slide, shape.inner)
    return Needs(height, room, measure.widest)


def figure_rooms(slide: Slide, shape: Shape) -> dict[int, tuple[float, float]]:
    """By `id` of each figure on a slide: the width and the height, in points, of the room that the slide leaves for its pictures."""
    needs = height_of(replace(slide, blocks=()), shape)
    measure = Measure(shape, slide.scale)
    room = needs.room - measure.notes(slide, shape.inner)
    measure.share_out(slide.blocks, shape.inner, room)
    return measure.rooms


class Measure:
    """Heights of blocks at one size of letters."""

    def __init__(self, shape: Shape, scale: float) -> None:
        self.text, self.code = shape.text * scale, shape.code * scale
        self.table, self.small, self.gap = shape.table * scale, shape.small * scale, shape.gap * scale
        self.widest = 0.0
        """As in `Needs.across`; found on the way."""
        self.full = False
        """Whether figures are measured as large as their width allows, and not as small as they may be."""
        self.in_list = False
        self.rooms: dict[int, tuple[float, float]] = {}

    def blocks(self, blocks: n.Blocks, width: float) -> float:
        """Blocks below each other with gaps between; gaps around what shows nothing do not count."""
        heights = [height for block in blocks if (height := self.block(block, width)) > 0]
        return sum(heights) + self.gap * max(len(heights) - 1, 0)

    def words(self, inlines: n.Inlines, width: float, size: float, bold: bool = False) -> float:
        return lines_of(inlines, width / size, bold) * size * LEADING if inlines else 0.0

    def block(self, block: n.Block, width: float) -> float:
        match block:
            case n.Paragraph(children=children):
                return self.words(children, width, self.text)
            case n.Heading(children=children):
                return self.words(children, width, self.text * 1.08, bold=True)
            case n.List() as it:
                return self.items(it, width)
            case n.Definitions(entries=entries):
                return sum(self.definition(entry, width) for entry in entries)
            case n.Quote(blocks=inner):
                return self.blocks(inner, width - self.text)
            case n.ChunkView(blocks=inner):
                return self.blocks(inner, width)
            case n.Container() as it:
                return self.container(it, width)
            case n.CodeBlock() as it:
                return self.code_block(it, width)
            case n.OutputText(text=text, cut=cut):
                return self.monospaced(text.split("\n"), width, _CODE_PADDING) + (self.small * LEADING if cut else 0)
            case n.TableBlock() as it:
                return self.table_block(it, width)
            case n.Figure() as it:
                return self.figure(it, width)
            case n.MathBlock(formula=formula):
                self.widest = max(self.widest, f.length(formula) * 0.5 * self.text / width)
                return self.text * 1.5 * _rows(formula)
            case n.RawHtmlBlock(html=html):
                words = " ".join(_TAG.sub(" ", html).split())
                return self.words((n.Text(block.span, words),), width, self.text) if words else 0.0
            case n.RichHtml():
                return _RICH
            case n.ContentsList(entries=entries):
                return sum(self.words(one.children, width, self.text) + self.gap / 2 for one in entries)
            case n.ReferenceList(entries=entries):
                return sum(self.words((*one.label, *one.words), width, self.small) + 6 for one in entries)
            case n.IndexList(entries=indexed):
                return sum(1 + len(entry.narrower) for entry in indexed) * self.text * 0.7 * LEADING / 2
            case n.AboutHere() | n.PartTitle():
                return self.text * LEADING
            case n.Rule():
                return 2 * self.gap
        return 0.0

    def items(self, it: n.List, width: float) -> float:
        inner = width - _INDENT * self.text
        outer, self.in_list = self.in_list, True  # figures stand there at their own size
        heights = [self.blocks(item.blocks, inner) for item in it.items]
        self.in_list = outer
        between = self.gap * (0.45 if it.tight else 0.8)
        return sum(heights) + between * max(len(heights) - 1, 0)

    def definition(self, entry: n.Definition, width: float) -> float:
        inner = width - _INDENT * self.text
        below = sum(self.blocks(meaning, inner) for meaning in entry.meanings)
        return self.words(entry.term, width, self.text, bold=True) + below + self.gap / 2

    def container(self, it: n.Container, width: float) -> float:
        if it.kind == "side-by-side" and it.blocks:
            return max(self.block(block, part) for block, part in zip(it.blocks, self.columns(it, width), strict=True))
        if it.kind in {"step", "steps"}:
            return self.blocks(it.blocks, width)
        title = self.words(it.title, width, self.small, bold=True) + 4 if it.title else 0.0
        return title + self.blocks(it.blocks, width - 2 * _BOX[0]) + 2 * _BOX[1]

    def columns(self, it: n.Container, width: float) -> list[float]:
        """The width of each of several blocks beside each other."""
        parts = shares(it)
        free = width - BETWEEN_COLUMNS * (len(parts) - 1)
        return [free * part / sum(parts) for part in parts]

    def code_block(self, it: n.CodeBlock, width: float) -> float:
        lines = ["".join(token.text for token in line.tokens) for line in it.lines]
        if it.tucked:
            return self.small * LEADING
        room = width - (3.2 * self.code if it.numbered else 0)
        asides = sum(self.words(words, width, self.small) for words in it.asides)
        return self.monospaced(lines, room, 2 * _CODE_PADDING) + asides + self.caption(it.caption, width)

    def monospaced(self, lines: list[str], width: float, padding: float) -> float:
        letters = max(int((width - 2 * _CODE_PADDING) / (MONO * self.code)), 8)
        count = sum(_lines_of_code(line.expandtabs(4), letters) for line in lines)
        return count * self.code * _CODE_LEADING + padding

    def caption(self, words: n.Inlines, width: float) -> float:
        return self.words((*words[:1], *words), width, self.small) + 6 if words else 0.0

    def table_block(self, it: n.TableBlock, width: float) -> float:
        table, size = it.table, self.table
        wished = [self.column(table, at) for at in range(len(table.aligns))]
        across = _CELL[0] * len(wished)
        total = sum(wished) * size + across
        least = sum(self.narrowest(table, at, room) for at, room in enumerate(wished)) * size + across
        self.widest = max(self.widest, least / width)
        shrunk = min(1.0, max(width - across, 1.0) / max(total - across, 1.0))
        rows = [self.row(row, wished, shrunk, size) for row in table.plain_rows]
        groups = len(table.rows) - len(rows)
        heads = [
            max((lines_of(cell.text, max(sum(wished[:1]), 4.0) * cell.span, True) for cell in row), default=1)
            if shrunk < 1
            else 1
            for row in table.heads
        ]
        lines = sum(rows) + groups + sum(heads)
        notes = sum(self.words(words, width, self.small) for _, words in table.notes)
        notes += self.small * LEADING if table.note else 0
        return (
            lines * size * 1.3
            + _CELL[1] * (len(table.rows) + len(table.heads))
            + notes
            + self.caption(it.caption, width)
        )

    def column(self, table: n.TextTable, at: int) -> float:
        """Ems that a column would take if no cell were broken."""
        cells = [row[at] for row in table.plain_rows[:200]]
        heads = [row[at].text for row in table.heads[-1:] if at < len(row) and row[at].span == 1]
        return max([natural_width(cell) for cell in cells] + [natural_width(head, True) for head in heads], default=1.0)

    def narrowest(self, table: n.TextTable, at: int, wished: float) -> float:
        """Ems that a column takes at least: long cells may be broken between words, short ones stay on one line."""
        texts = [words_of(row[at]) for row in table.plain_rows[:200]]
        if all(len(text) <= _SHORT for text in texts):
            return wished
        return min(wished, max((width_of(word) for text in texts for word in text.split()), default=1.0))

    def row(self, row: tuple[n.Inlines, ...], wished: list[float], shrunk: float, size: float) -> int:
        if shrunk >= 1:
            return 1
        return max((lines_of(cell, max(room * shrunk, 3.0)) for cell, room in zip(row, wished, strict=True)), default=1)

    def figure(self, it: n.Figure, width: float) -> float:
        """The least that it needs, since it takes what the slide leaves; or the most that it can use."""
        caption = self.caption(it.caption, width)
        if self.in_list:
            sizes = [(one.width or 8.0) * POINTS_A_CENTIMETRE for one in it.pictures]
            drawn = [min(size, width) / ratio_of(one) for size, one in zip(sizes, it.pictures, strict=True)]
            return max(drawn, default=0.0) + caption
        if self.full:
            across = (width - _BETWEEN_PARTS * (len(it.pictures) - 1)) / max(len(it.pictures), 1)
            return max((across / ratio_of(one) for one in it.pictures), default=0.0) + caption
        pictures = [picture.height * POINTS_A_CENTIMETRE for picture in it.pictures if picture.height] or [
            _LEAST_FIGURE
        ]
        return min(max(pictures), _LEAST_FIGURE) + caption

    # --- what is left for figures -----------------------------------------------------------------

    def share_out(self, blocks: n.Blocks, width: float, height: float) -> list[float]:
        """The height of each block: figures, and what holds figures, have equal parts of what the others leave, but none more than it can use."""
        least = [self.block(block, width) for block in blocks]
        self.full = True
        most = [self.block(block, width) for block in blocks]
        self.full = False
        shown = sum(one > 0 for one in least)
        left = height - sum(least) - self.gap * max(shown - 1, 0)
        growing = sorted((at for at in range(len(blocks)) if most[at] > least[at]), key=lambda at: most[at] - least[at])
        for taken, at in enumerate(growing):
            more = min(most[at] - least[at], max(left, 0.0) / (len(growing) - taken))
            left -= more
            least[at] += more
        for at, block in enumerate(blocks):
            self.within(block, width, least[at])
        return least

    def within(self, block: n.Block, width: float, height: float) -> None:
        match block:
            case n.Figure() as it:
                self.rooms[id(it)] = (width, height - self.caption(it.caption, width))
            case n.Container(kind="side-by-side") as it if it.blocks:
                for inner, part in zip(it.blocks, self.columns(it, width), strict=True):
                    self.share_out((inner,), part, height)
            case n.Container() as it if it.kind not in {"step", "steps"}:
                title = self.words(it.title, width, self.small, bold=True) + 4 if it.title else 0.0
                self.share_out(it.blocks, width - 2 * _BOX[0], height - title - 2 * _BOX[1])
            case n.ChunkView(blocks=inner) | n.Container(blocks=inner):
                self.share_out(inner, width, height)
            case n.Quote(blocks=inner):
                self.share_out(inner, width - self.text, height)
            case n.List(items=items):
                outer, self.in_list = self.in_list, True
                for item in items:
                    for inner_block in item.blocks:
                        room = width - _INDENT * self.text
                        self.within(inner_block, room, self.block(inner_block, room))
                self.in_list = outer

    def notes(self, slide: Slide, width: float) -> float:
        """The notes that are called on a slide, at its foot."""
        title = slide.title if slide.part <= 1 else ()
        found = {one.number: one for one in walk((*title, *slide.blocks)) if isinstance(one, n.Footnote)}
        if not found:
            return 0.0
        words = (inner for note in found.values() for inner in _words_of(note.blocks))
        return sum(self.words(one, width - self.small, self.small) for one in words) + self.gap


def _lines_of_code(line: str, letters: int) -> int:
    """Lines that code takes which is broken between words, and within those that are longer than a line."""
    if len(line) <= letters:
        return 1
    count, at = 1, 0
    for word in re.findall(r"\s+|\S+", line):
        if at and not word.isspace() and at + len(word) > letters:
            count, at = count + 1, 0
        at += len(word)
        if not word.isspace() and at > letters:
            count, at = count + (at - 1) // letters, (at - 1) % letters + 1
    return count


def ratio_of(picture: n.Picture) -> float:
    """Width by height; that of a screen where it is not known."""
    return picture.width / picture.height if picture.width and picture.height else 16 / 9


def _words_of(blocks: n.Blocks) -> Iterator[n.Inlines]:
    for block in blocks:
        if isinstance(block, n.Paragraph):
            yield block.children


def _rows(formula: object) -> float:
    """How many lines of text a formula is tall, about."""
    match formula:
        case f.Fraction(numerator=top, denominator=below):
            return _rows(top) + _rows(below)
        case f.Grid(rows=rows):
            return sum(max((_rows(cell) for cell in row), default=1.0) * 1.1 for row in rows)
        case f.Scripts(base=base, sub=sub, sup=sup):
            return _rows(base) + (0.8 if isinstance(base, f.BigOperator) else 0.2) * (bool(sub) + bool(sup)) / 2
        case f.BigOperator():
            return 1.6
        case tuple():
            return max(map(_rows, formula), default=1.0)
        case f.Formula():
            return max((_rows(getattr(formula, name)) for name in formula.__struct_fields__), default=1.0)
    return 1.0
