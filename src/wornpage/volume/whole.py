"""All pages of a volume as one composed page: for outputs that are one document."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from wornpage.compose.chapters import TOP
from wornpage.compose.citing import Notes
from wornpage.tree import nodes as n
from wornpage.tree.span import Span
from wornpage.tree.walk import rewrite


class Placed(Struct, frozen=True):
    """A composed page at its place in the whole."""

    key: str
    page: n.Composed
    part: int = -1
    is_appendix: bool = False


def joined(
    front: n.Composed, leaves: Sequence[Placed], parts: Sequence[tuple[str, str]], right_hand: bool = False
) -> n.Composed:
    """One document: the front page's head, then each page as a chapter under a heading of its own, on a new sheet."""
    blocks: list[n.Block] = []
    contents: list[n.ContentsEntry] = []
    last, notes = -1, Notes()
    for leaf in leaves:
        span = _span(leaf)
        if leaf.part != last and leaf.part >= 0:
            number, title = parts[leaf.part]
            label = f"part:{leaf.part + 1}"
            words: n.Inlines = (n.Text(span, title),)
            blocks.append(n.SheetBreak(span, right_hand))
            blocks.append(n.PartTitle(span, words, label, number, front.terms.part[0] if number else ""))
            contents.append(n.ContentsEntry(1, number, label, words, is_part=True))
        last = leaf.part
        if leaf.is_appendix and not any(isinstance(block, n.AppendixBreak) for block in blocks):
            blocks.append(n.AppendixBreak(span))
        blocks.append(n.SheetBreak(span, right_hand))
        made = _Chapter(leaf).blocks()
        blocks += notes.numbered(tuple(made))
        contents.append(n.ContentsEntry(1, leaf.page.number, _place(leaf.key, TOP), leaf.page.head.title))
        contents += [replace(one, level=one.level + 1, label=_place(leaf.key, one.label)) for one in leaf.page.contents]
    head = _head(front.head, _Chapter(Placed("(front)", front)).own)
    length = sum(leaf.page.words for leaf in leaves)
    return replace(front, head=head, blocks=tuple(blocks), contents=tuple(contents), words=length, number="", word="")


def _head(head: n.TitleBlock, change: Callable[[Any], Any]) -> n.TitleBlock:
    """The head of a page with its running text changed."""
    return replace(
        head,
        title=change(head.title),
        subtitle=change(head.subtitle),
        abstract=change(head.abstract),
        keywords=tuple(change(one) for one in head.keywords),
    )


def _span(leaf: Placed) -> Span:
    title = leaf.page.head.title
    return title[0].span if title else Span(leaf.key, 1)


def _place(key: str, label: str) -> str:
    """A label of a page, as the whole has it."""
    return f"{key}:{label}"


class _Chapter:
    """One page, its labels told apart from those of all others."""

    def __init__(self, leaf: Placed) -> None:
        self.leaf, self.key = leaf, leaf.key

    def blocks(self) -> list[n.Block]:
        """Its heading, what stands in its head, its text."""
        page, span = self.leaf.page, _span(self.leaf)
        head = page.head
        words = head.title or (n.Text(span, page.plain_title),)
        made: list[n.Block] = [
            n.Heading(span, 1, self.own(words), n.NO_ATTRIBUTES, _place(self.key, TOP), page.number, page.word, is_chapter=True)
        ]  # fmt: skip
        if head.subtitle:
            made.append(n.Paragraph(span, (n.Emphasis(span, self.own(head.subtitle)),)))
        if head.authors:
            made.append(n.Paragraph(span, (n.Text(span, ", ".join(person.name for person in head.authors)),)))
        if head.abstract:
            title = (n.Text(span, page.terms.abstract),)
            made.append(n.Container(span, "summary", n.NO_ATTRIBUTES, self.own(head.abstract), title))
        return [*made, *self.own(page.blocks)]

    def own(self, tree: Any) -> Any:
        """A tree with its labels as the whole has them, and its headings one level deeper."""
        return rewrite(tree, self.change)

    def change(self, node: n.Node) -> n.Node | tuple[n.Node, ...] | None:
        match node:
            case n.Heading(children=children, level=level, label=label):
                return replace(node, level=level + 1, label=_place(self.key, label), children=self.own(children))
            case n.Figure(label=label, caption=caption) | n.CodeBlock(label=label, caption=caption) if label:
                return replace(node, label=_place(self.key, label), caption=self.own(caption))
            case n.TableBlock(label=label, caption=caption, table=table) if label:
                return replace(node, label=_place(self.key, label), caption=self.own(caption), table=self.table(table))
            case n.MathBlock(label=label) if label:
                return replace(node, label=_place(self.key, label))
            case n.Container(attributes=attributes, blocks=blocks, title=title) if attributes.label:
                own = replace(attributes, label=_place(self.key, attributes.label))
                return replace(node, attributes=own, blocks=self.own(blocks), title=self.own(title))
            case n.Citation(anchor=anchor, children=children):
                return replace(node, anchor=_place(self.key, anchor), children=self.own(children))
            case n.Link(to=to, page=page, children=children) if to:
                return replace(node, to=_place(page or self.key, to), page="", children=self.own(children))
            case n.Anchor(label=label):
                return replace(node, label=_place(self.key, label))
            case n.IndexList(entries=entries):
                return replace(node, entries=tuple(self.entry(one) for one in entries))
            case n.Footnote(key=key, blocks=blocks):
                return replace(node, key=_place(self.key, key), blocks=self.own(blocks))
            case n.ReferenceList(entries=entries):
                return replace(node, entries=tuple(self.reference(one) for one in entries))
            case n.ContentsList(entries=entries):
                return replace(node, entries=tuple(replace(one, label=_place(self.key, one.label)) for one in entries))
        return None

    def table(self, table: n.TextTable) -> n.TextTable:
        """A table with the links and notes in its cells."""
        made: n.TextTable = rewrite(table, self.change)
        return made

    def entry(self, entry: n.IndexEntry) -> n.IndexEntry:
        places = tuple(replace(one, label=_place(one.page or self.key, one.label), page="") for one in entry.places)
        return replace(entry, places=places, narrower=tuple(self.entry(one) for one in entry.narrower))

    def reference(self, entry: n.Reference) -> n.Reference:
        backs = tuple(n.Spot(_place(spot.page or self.key, spot.label)) for spot in entry.backs)
        return replace(entry, anchor=_place(self.key, entry.anchor), words=self.own(entry.words), backs=backs)


def alone(page: n.Composed) -> n.Composed:
    """A page of a volume as a document of its own: what leads to other pages is words."""

    def change(node: n.Node) -> n.Node | tuple[n.Node, ...] | None:
        match node:
            case n.Link(page=page, children=children) if page:
                inner: n.Inlines = rewrite(children, change)
                return inner
            case n.ReferenceList(entries=entries):
                own = tuple(replace(one, backs=tuple(spot for spot in one.backs if not spot.page)) for one in entries)
                return replace(node, entries=own)
            case n.ContentsList(entries=entries):
                return replace(node, entries=tuple(one for one in entries if not one.page))
            case n.IndexList(entries=entries):
                return replace(node, entries=tuple(_own_places(one) for one in entries))
        return None

    def own(tree: Any) -> Any:
        return rewrite(tree, change)

    return replace(page, head=_head(page.head, own), blocks=own(page.blocks))


def _own_places(entry: n.IndexEntry) -> n.IndexEntry:
    places = tuple(one for one in entry.places if not one.page)
    return replace(entry, places=places, narrower=tuple(_own_places(one) for one in entry.narrower))
