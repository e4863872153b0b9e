"""A composed page as one output has it: without what is meant for another, and no link to what is not there."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from itertools import chain
from typing import Any

from msgspec.structs import replace

from wornpage.tree import nodes as n
from wornpage.tree.walk import rewrite, walk

DECKS = "slides"
"""What outputs that are slides are called together."""


def for_output(page: n.Composed, kind: str, family: str = "") -> n.Composed:
    """`page` as the output `kind` has it, one of a `family` or of none.

    What is meant for another output is left out, headings are set so that no level is skipped, sheets begin only between
    blocks of the page itself, links to what has been left out are words, and what only slides know (their beginnings, their
    steps, the speaker's notes) leaves no trace in others.
    """
    blocks, nodes = page.blocks, list(walk(page.blocks))
    audience = _Audience(kind, family)
    if any(audience.leaves_out(node) for node in nodes):
        blocks = _levelled(audience.kept(blocks))
    if family != DECKS and any(_is_of_slides(node) for node in nodes):
        blocks = at_once(blocks, kind)
    if any(isinstance(node, n.SheetBreak) for node in nodes):
        blocks = _without_inner_breaks(blocks)
    if blocks is not page.blocks:
        nodes = list(walk(blocks))
    there = frozenset(labels_in(nodes))
    asked = frozenset(_asked(page, nodes))
    if blocks is page.blocks and asked <= there:
        return page
    head = page.head
    return replace(
        page,
        blocks=_linked(blocks, there),
        contents=_entries(page.contents, there),
        head=replace(
            head,
            title=_linked(head.title, there),
            subtitle=_linked(head.subtitle, there),
            abstract=_linked(head.abstract, there),
        ),
    )


class _Audience:
    """Who an output is for."""

    def __init__(self, kind: str, family: str) -> None:
        self.kind, self.family = kind, family

    def leaves_out(self, node: n.Node) -> bool:
        """Whether a node is a `:::` block for others."""
        if not isinstance(node, n.Container):
            return False
        return not node.is_for(self.kind, self.family) or (node.kind == "speaker" and self.family != DECKS)

    def kept(self, blocks: n.Blocks) -> n.Blocks:
        """Blocks without those for others; what held nothing else goes with them."""
        made: n.Blocks = rewrite(blocks, self._change)
        return made

    def _change(self, node: n.Node) -> n.Node | tuple[n.Node, ...] | None:
        if self.leaves_out(node):
            return ()
        if isinstance(node, n.Container) and any(self.leaves_out(one) for one in walk(node.blocks)):
            inner: n.Blocks = rewrite(node.blocks, self._change)
            return replace(node, blocks=inner) if inner else ()
        return None


def _is_of_slides(node: n.Node) -> bool:
    """Whether a node is there for slides alone, or only holds blocks together."""
    return isinstance(node, n.SlideBreak) or (
        isinstance(node, n.Container) and node.kind in {"step", "steps", "column", "speaker"}
    )


def at_once(blocks: n.Blocks, kind: str) -> n.Blocks:
    """Blocks without beginnings of slides; what comes in steps or in turns is there at once, and stays one block beside others."""

    def change(node: n.Node) -> n.Node | tuple[n.Node, ...] | None:
        if isinstance(node, n.SlideBreak):
            return ()
        if isinstance(node, n.CodeBlock) and node.turns:
            return replace(node, lines=tuple(replace(line, turns=()) for line in node.lines))
        if isinstance(node, n.Container) and _is_of_slides(node):
            inner: n.Blocks = rewrite(node.blocks, change)
            return replace(node, kind=f"in {kind}", title=(), blocks=inner) if len(inner) > 1 else inner
        return None

    made: n.Blocks = rewrite(blocks, change)
    return made


def _levelled(blocks: n.Blocks) -> n.Blocks:
    """Headings as deep as what they still stand under."""
    above: list[int] = []

    def change(node: n.Node) -> n.Node | None:
        if not isinstance(node, n.Heading):
            return None
        while above and above[-1] >= node.level:
            above.pop()
        above.append(node.level)
        return replace(node, level=len(above))

    made: n.Blocks = rewrite(blocks, change)
    return made


def _without_inner_breaks(blocks: n.Blocks) -> n.Blocks:
    """A new sheet cannot begin inside a quotation, a list or a box."""

    def change(node: n.Node) -> tuple[n.Node, ...] | None:
        return () if isinstance(node, n.SheetBreak) else None

    def outer(block: n.Block) -> Any:
        if isinstance(block, n.Container) and block.chosen:
            return replace(block, blocks=_without_inner_breaks(block.blocks))
        return block if isinstance(block, n.SheetBreak) else rewrite(block, change)

    made = tuple(outer(block) for block in blocks)
    return blocks if all(new is old for new, old in zip(made, blocks, strict=True)) else made


def labels_in(nodes: Iterable[n.Node]) -> Iterator[str]:
    """Every place among `nodes` that a link can lead to."""
    for node in nodes:
        match node:
            case n.Heading(label=label) | n.PartTitle(label=label) | n.MathBlock(label=label):
                yield label
            case n.Figure(label=label) | n.TableBlock(label=label):
                yield label
            case n.CodeBlock(label=label) if label:
                yield label
            case n.Container(attributes=attributes):
                yield attributes.label
            case n.Citation(anchor=anchor) | n.Anchor(label=anchor):
                yield anchor
            case n.ReferenceList(entries=entries):
                yield from (entry.anchor for entry in entries)


def _asked(page: n.Composed, nodes: Iterable[n.Node]) -> Iterator[str]:
    """Every place inside the page that something leads to; `nodes` are those of its body."""
    yield from (entry.label for entry in page.contents)
    for node in chain(walk((*page.head.title, *page.head.subtitle, *page.head.abstract)), nodes):
        match node:
            case n.Link(to=to, page="") if to:
                yield to
            case n.ContentsList(entries=entries):
                yield from (entry.label for entry in entries if not entry.page and entry.label)
            case n.ReferenceList(entries=entries):
                yield from (back.label for entry in entries for back in entry.backs if not back.page)


def _linked(tree: object, there: frozenset[str]) -> object:
    """`tree` with words in place of links to what is not there."""

    def change(node: n.Node) -> n.Node | tuple[n.Node, ...] | None:
        match node:
            case n.Link(to=to, children=children) if to and not node.page and to not in there:
                inner: n.Inlines = rewrite(children, change)
                return inner
            case n.ContentsList(entries=entries):
                return replace(node, entries=_entries(entries, there))
            case n.ReferenceList(entries=entries):
                return replace(node, entries=tuple(_reference(entry, there) for entry in entries))
        return None

    return rewrite(tree, change)


def _reference(entry: n.Reference, there: frozenset[str]) -> n.Reference:
    return replace(
        entry,
        backs=tuple(back for back in entry.backs if back.page or back.label in there),
        label=_linked(entry.label, there),
        words=_linked(entry.words, there),
    )


def _entries(entries: tuple[n.ContentsEntry, ...], there: frozenset[str]) -> tuple[n.ContentsEntry, ...]:
    return tuple(
        replace(entry, children=_linked(entry.children, there))
        for entry in entries
        if entry.page or not entry.label or entry.label in there
    )
