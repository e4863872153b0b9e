"""Captions and labels join the block above them."""

from __future__ import annotations

from collections.abc import Iterable

from msgspec.structs import replace

from wornpage.tree import nodes as n
from wornpage.tree.problem import Problem


def attach(blocks: Iterable[n.Block]) -> tuple[n.Blocks, list[Problem]]:
    """`blocks` with every `Caption:` and `Label:` line joined to what stands above it."""
    made: list[n.Block] = []
    problems: list[Problem] = []
    for block in blocks:
        if not isinstance(block, n.Caption):
            made.append(block)
            continue
        joined = _join(made[-1], block) if made else None
        if joined is None:
            problems.append(_nothing_above(block))
        else:
            made[-1] = joined
    return tuple(made), problems


def _join(above: n.Block, caption: n.Caption) -> n.Block | None:
    """`above` with its caption; None if it cannot have one."""
    if caption.label:
        labelled = isinstance(above, n.RawMathBlock | n.PipeTable | n.Listing | n.PictureBlock)
        return replace(above, label=caption.label) if labelled else None
    if isinstance(above, n.Chunk):
        return replace(above, captions=(*above.captions, caption))
    if isinstance(above, n.PipeTable | n.Listing | n.PictureBlock) and above.caption is None:
        return replace(above, caption=caption)
    return None


def _nothing_above(caption: n.Caption) -> Problem:
    word = "label" if caption.label else "caption"
    takes = (
        "an equation, a table, an image or a listing" if caption.label else "a chunk, a table, an image or a listing"
    )
    what = f"there is nothing above this {word} that it could belong to."
    hint = f"It goes under {takes}; write `\\{word.title()}:` for ordinary text."
    return Problem(caption.span, what, hint)
