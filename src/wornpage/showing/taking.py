"""From a composed page to the record of what it shows."""

from __future__ import annotations

import math
import time
from collections.abc import Iterator, Mapping

from msgspec.structs import replace

from wornpage.colophon import Colophon
from wornpage.plan.record import Record
from wornpage.session.results import Answer
from wornpage.showing.parts import (
    HOLE,
    OVER,
    Figure,
    Number,
    Part,
    Showing,
    ShownChunk,
    ShownPicture,
    ShownValue,
    Table,
    Words,
)
from wornpage.source import Page
from wornpage.store.addresses import digest
from wornpage.store.hashes import address_of
from wornpage.tree import nodes as n
from wornpage.tree.heads import column_heads
from wornpage.tree.span import Span
from wornpage.tree.table import Value
from wornpage.tree.walk import are_words, children, rewrite, walk, words_of

_EXACT = 2**53
"""Whole numbers up to which are kept as they are."""


def showing_of(
    source: Page, composed: n.Composed, record: Record, colophon: Colophon
) -> tuple[Showing, dict[str, bytes]]:
    """What a page shows, and the bytes of its pictures by their digests."""
    taking = _Taking(source, record.answers)
    parts = tuple(taking.all(composed))
    chunks = tuple(taking.chunks((record.page or source).chunks, record))
    showing = Showing(
        composed.plain_title, parts, chunks, round(time.time(), 3), source.path.name, colophon.page,
        {name: str(value) for name, value in colophon.given.items()},
        colophon.data | colophon.texts, colophon.packages, colophon.python, colophon.worn,
    )  # fmt: skip
    return showing, taking.pictures


class _Taking:
    def __init__(self, source: Page, answers: Mapping[Span, Answer]) -> None:
        self.answers, self.pictures = answers, dict[str, bytes]()
        self._before = source.name.removesuffix(source.path.name)
        self.inside = ""
        """The chunk whose results are gone through."""

    def all(self, composed: n.Composed) -> Iterator[Part]:
        """Every part, in page order."""
        head = composed.head
        place = Span(composed.blocks[0].span.file if composed.blocks else "", 1)
        for inlines in (head.title, head.subtitle):
            if inlines:
                yield self.words("title", inlines, place)
        for part in self.several(head.abstract):
            yield replace(part, kind="summary") if isinstance(part, Words) and part.kind == "paragraph" else part
        yield from self.several(composed.blocks)

    def chunks(self, chunks: tuple[n.Chunk, ...], record: Record) -> Iterator[ShownChunk]:
        """The chunks that stand behind it, each with what it went by."""
        writers: dict[str, str] = {}
        for chunk in chunks:
            trace = record.traces.get(chunk.label)
            if trace is None:
                continue
            read = [
                one.name.partition(" ")[2] if one.kind == "handed" else one.name
                for one in trace.reads
                if one.kind in {"name", "handed", "file"}
            ]
            above = dict.fromkeys(writers[name] for name in read if name in writers)
            yield ShownChunk(
                chunk.label, self.place(chunk.span), digest(chunk.code), trace.run,
                tuple(trace.read("file")), tuple(trace.read("given")), tuple(above),
            )  # fmt: skip
            writers |= dict.fromkeys((*trace.names, *(path for path, _ in trace.written)), chunk.label)

    def place(self, span: Span) -> str:
        """Where something stands, however the page was named."""
        return str(span).removeprefix(self._before)

    # --- blocks -------------------------------------------------------------------------------

    def several(self, blocks: n.Blocks) -> Iterator[Part]:
        for block in blocks:
            yield from self.block(block)

    def block(self, node: n.Block) -> Iterator[Part]:
        """The parts that a block makes."""
        match node:
            case n.ChunkView(label=label, blocks=blocks):
                outer, self.inside = self.inside, label
                yield from self.several(blocks)
                self.inside = outer
            case n.Heading(children=inlines, number=number):
                yield self.words("heading", inlines, node.span, f"{number} " if number else "")
            case n.PartTitle(children=inlines):
                yield self.words("heading", inlines, node.span)
            case n.Paragraph(children=inlines):
                yield self.words("paragraph", inlines, node.span)
                yield from self.notes(inlines)
            case n.Definition(term=term, meanings=meanings):
                yield self.words("paragraph", term, node.span)
                for meaning in meanings:
                    yield from self.several(meaning)
            case n.CodeBlock(lines=lines):
                code = "\n".join("".join(token.text for token in line.tokens) for line in lines)
                yield Words("code", code, self.place(node.span), (), self.inside)
            case n.OutputText(text=text) | n.RichHtml(text=text):
                yield Words("output", text, self.place(node.span), (), self.inside)
            case n.MathBlock(latex=latex, alt=alt):
                yield Words("formula", (latex or alt).strip(), self.place(node.span), (), self.inside)
            case n.Figure():
                yield self.figure(node)
            case n.TableBlock():
                yield self.table(node)
            case n.ReferenceList(entries=entries):
                for entry in entries:
                    yield self.words("paragraph", (*entry.label, *entry.words), node.span)
            case n.ContentsList() | n.IndexList():
                return
            case _:
                yield from self.several(tuple(one for one in children(node) if isinstance(one, n.Block)))

    def notes(self, inlines: n.Inlines) -> Iterator[Part]:
        """Notes that words call, where they are first called."""
        for node in () if are_words(inlines) else walk(inlines):
            if isinstance(node, n.Footnote) and node.first:
                yield from self.several(node.blocks)

    def words(self, kind: str, inlines: n.Inlines, span: Span, before: str = "") -> Words:
        is_plain = are_words(inlines)
        values = () if is_plain else tuple(self.values(inlines))
        frame = "" if is_plain else _frame(inlines)
        return Words(
            kind, before + _said(inlines), self.place(span), values, self.inside, before + frame if frame else ""
        )

    def values(self, inlines: n.Inlines) -> Iterator[ShownValue]:
        """The values of marks among words; not those in their notes, which are parts of their own."""
        for node in inlines:
            if isinstance(node, n.Footnote):
                continue
            if _is_value(node):
                assert isinstance(node, n.Answered)
                answer = self.answers.get(node.span)
                raw = " ".join(node.raw.split())
                said = " ".join(words_of(node.children).split())
                yield ShownValue(said, raw, self.place(node.span), _number_in(answer))
            else:
                yield from self.values(tuple(one for one in children(node) if isinstance(one, n.Inline)))

    # --- figures and tables -------------------------------------------------------------------

    def figure(self, node: n.Figure) -> Figure:
        pictures = []
        for one in node.pictures:
            address = address_of(one.data)
            self.pictures[address] = one.data
            pictures.append(ShownPicture(one.format, address, one.width, one.height))
        return Figure(
            node.label, f"{node.word} {node.number}".strip(), _said(node.caption), self.place(node.span), self.inside,
            tuple(pictures), tuple(self.values(node.caption)), _frame(node.caption),
        )  # fmt: skip

    def table(self, node: n.TableBlock) -> Table:
        table, data = node.table, node.data
        rows = tuple(tuple(map(_in_cell, row)) for row in table.rows)
        marked = (cell for row in table.rows for cell in row if _may_have_values(cell))
        values = [*self.values(node.caption), *(one for cell in marked for one in self.values(cell))]
        exact: list[tuple[Number | None, ...]] = []
        at = 0
        for place in range(len(table.rows)):
            if table.kind(place) == "group":
                exact.append(())
                continue
            columns = data.columns if data is not None and at < data.rows else ()
            exact.append(tuple(_number_of(column.cells[at]) for column in columns))
            at += 1
        return Table(
            node.label, f"{node.word} {node.number}".strip(), _said(node.caption), self.place(node.span), self.inside,
            tuple(map(OVER.join, column_heads(table))), rows, tuple(exact) if data is not None else (), table.index_columns,
            data.left_out + data.rows - at if data is not None else 0, tuple(values), _frame(node.caption),
        )  # fmt: skip


def _may_have_values(cell: n.Inlines) -> bool:
    """Whether anything but letters and numbers of code stands in a cell, of which there are very many."""
    return any(type(node) is not n.Text and not (type(node) is n.Answered and not node.raw) for node in cell)


def _in_cell(cell: n.Inlines) -> str:
    """What a cell says."""
    if len(cell) == 1:
        node = cell[0]
        if type(node) is n.Answered and len(node.children) == 1:
            node = node.children[0]
        if type(node) is n.Text:
            return node.text
    return _said(cell)


def _is_value(node: n.Node) -> bool:
    """Whether a value mark made it."""
    return isinstance(node, n.Answered) and node.is_value


def _frame(inlines: n.Inlines) -> str:
    """Words with a hole for each value; empty where there is none."""
    made = rewrite(inlines, _hole)
    return _said(made) if made is not inlines else ""


def _hole(node: n.Node) -> n.Node | None:
    return n.Text(node.span, HOLE) if _is_value(node) else None


def _said(inlines: n.Inlines) -> str:
    return " ".join(words_of(inlines).split())


def _number_of(cell: object) -> Number | None:
    """The number in a cell."""
    content = cell.content if isinstance(cell, Value) else cell
    return _kept(content)


def _number_in(answer: Answer | None) -> Number | None:
    """The number that a mark found."""
    if answer is None:
        return None
    if answer.type == "faces":
        try:
            return _kept(float(answer.value.get("number") or "nan"))
        except (ValueError, AttributeError):
            return None
    return _kept(answer.value) if answer.type in {"whole", "number"} else None


def _kept(value: object) -> Number | None:
    if isinstance(value, bool) or not isinstance(value, int | float):
        return None
    if isinstance(value, int) and abs(value) <= _EXACT:
        return value
    try:
        number = float(value)
    except OverflowError:
        return None
    return number if math.isfinite(number) else None
