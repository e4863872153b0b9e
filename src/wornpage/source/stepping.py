"""Attribute lists on a line of their own join the block above them: a list that comes step by step."""

from __future__ import annotations

from collections.abc import Iterable

from msgspec.structs import replace

from wornpage.tree import nodes as n
from wornpage.tree.problem import Problem, Severity


class AttributeLine(n.Block, frozen=True):
    """Such a line, until it has found its block."""

    attributes: n.Attributes


def attach(blocks: Iterable[n.Block]) -> tuple[n.Blocks, list[Problem]]:
    """`blocks` with every such line joined to what stands above it, which it sets into a container for its steps."""
    made: list[n.Block] = []
    problems: list[Problem] = []
    for block in blocks:
        if not isinstance(block, AttributeLine):
            made.append(block)
        elif not made or isinstance(made[-1], n.Heading | n.Command):
            what = "there is no block above this line that could come step by step."
            problems.append(
                Problem(block.span, what, "It goes under a list, a table, a box or a paragraph.", Severity.WARNING)
            )
        elif block.attributes.pairs:
            above = made[-1]
            made[-1] = n.Container(replace(above.span, end_line=block.span.line), "steps", block.attributes, (above,))
    return tuple(made), problems
