"""The seed of a chunk: its own, or one that follows from the page's seed and its label."""

from __future__ import annotations

import hashlib

from wornpage.tree.nodes import Chunk, ValueMark


def seed_of(chunk: Chunk, own: int | None, page_seed: int, occurrence: int) -> int:
    """A seed from 0 to 2**32 - 1.

    A chunk without a label of its own takes its code in place of it, and how often (`occurrence`, from 0) the
    same code stood above, so that a chunk put in before it changes nothing.
    """
    if own is not None:
        return own % 2**32
    name = f"#{chunk.label}" if chunk.named or chunk.apart else f"{chunk.code}\0{occurrence}"
    return _number(f"{page_seed}\0{name}")


def seed_of_mark(mark: ValueMark, page_seed: int, occurrence: int) -> int:
    """A seed for a value mark, which is told from another with the same words by how often they stood above."""
    return _number(f"{page_seed}\0mark\0{mark.expression}\0{mark.span.within}\0{occurrence}")


def _number(text: str) -> int:
    digest = hashlib.blake2b(text.encode("utf-8", "surrogatepass"), digest_size=4).digest()
    return int.from_bytes(digest, "big")
