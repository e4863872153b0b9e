"""A page as the steps of a walk: a chunk, then the value marks that stand between it and the next."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from msgspec import Struct

from wornpage.tree import nodes as n
from wornpage.tree.walk import walk


class Step(Struct, frozen=True):
    """One chunk, or none before the first, and the marks that see the names as it leaves them."""

    chunk: n.Chunk | None
    marks: tuple[n.ValueMark, ...]
    insert: n.Insert | None = None
    """The insert that begins with the chunk: what it stands for comes before the next step."""


def steps_of(blocks: n.Blocks, opening: Callable[[n.Insert], n.Chunk], at_the_end: Iterable[n.Node] = ()) -> list[Step]:
    """The steps of a page in order; marks in `at_the_end` (front matter) see the final state.

    `opening` gives the chunk that an insert begins with.
    """
    found: list[tuple[n.Chunk | None, list[n.ValueMark], n.Insert | None]] = [(None, [], None)]
    for node in walk(blocks):
        if isinstance(node, n.Chunk):
            found.append((node, [], None))
        elif isinstance(node, n.Insert):
            found += [(opening(node), [], node), (None, [], None)]
        elif isinstance(node, n.ValueMark):
            found[-1][1].append(node)
    found[-1][1].extend(node for node in walk(at_the_end) if isinstance(node, n.ValueMark))
    return [Step(chunk, tuple(marks), insert) for chunk, marks, insert in found if chunk or marks]
