"""An inserted file told for what it stands: its own labels, its place among the headings, its repetition in messages."""

from __future__ import annotations

from msgspec.structs import replace

from wornpage.tree import nodes as n
from wornpage.tree.walk import map_nodes


def told_for(blocks: n.Blocks, within: str, apart: str, deeper: int) -> n.Blocks:
    """`blocks` of an inserted file as they stand in the page.

    `within` says where it is inserted and for what; `apart` is put behind every label (`plot.quayside`; nothing where
    it is empty); headings stand `deeper`.
    """

    def label(old: str) -> str:
        return f"{old}.{apart}" if old and apart else old

    def change(node: n.Node) -> n.Node:
        new: dict[str, object] = {"span": replace(node.span, within=_both(within, node.span.within))}
        match node:
            case n.Heading():
                new |= {"label": label(node.label), "level": min(node.level + deeper, 6)}
            case n.Insert():
                new |= {"label": label(node.label), "deeper": node.deeper + deeper}
            case n.Footnote():
                new["key"] = f"{node.key}, {within}"
            case n.Chunk() | n.PipeTable() | n.Listing() | n.RawMathBlock() | n.PictureBlock() | n.Caption():
                new["label"] = label(node.label)
        if isinstance(node, n.Chunk | n.Insert | n.PointerMark | n.Link):
            new["apart"] = ".".join(filter(None, (node.apart, apart)))
        if isinstance(node, n.Heading | n.Container | n.Image) and node.attributes.label:
            new["attributes"] = replace(node.attributes, label=label(node.attributes.label))
        return replace(node, **new)

    made: n.Blocks = map_nodes(blocks, change)
    return made


def _both(outer: str, inner: str) -> str:
    return f"{inner}, {outer}" if inner else outer
