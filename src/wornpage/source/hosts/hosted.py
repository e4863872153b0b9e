"""What a host text is made of."""

from __future__ import annotations

from msgspec import Struct

from wornpage.source.page import FrontMatter
from wornpage.tree.nodes import Blocks
from wornpage.tree.problem import Problem
from wornpage.tree.span import Span


class Literal(Struct, frozen=True):
    """Text of the host, which stays."""

    text: str
    line: int
    """On which it begins, counted from 1."""


class Hosted(Struct, frozen=True):
    """A host text, read."""

    front: FrontMatter
    blocks: Blocks
    """A chunk, or a paragraph with one mark, for each place that is filled."""
    pieces: tuple[Literal | Span, ...]
    """The whole text in order; where something is filled in stands the span of its block."""
    problems: tuple[Problem, ...] = ()
