"""What is too much for paper: tables of so many cells that setting them takes minutes and gigabytes."""

from __future__ import annotations

from msgspec.structs import replace

from wornpage.tree import nodes as n
from wornpage.tree.problem import Problem, Severity
from wornpage.tree.walk import rewrite

MOST_CELLS = 30_000
"""Cells of one table that are set: about twenty seconds and a gigabyte."""


def bounded(page: n.Composed, output: str) -> tuple[n.Composed, list[Problem]]:
    """`page` with tables cut that are too large, each with a note below it, and a warning with its place."""
    problems: list[Problem] = []

    def change(node: n.Node) -> n.Node | None:
        if not isinstance(node, n.TableBlock):
            return None
        table = node.table
        columns, rows = max(len(table.aligns), 1), len(table.rows)
        kept = max(MOST_CELLS // columns, 1)
        if rows <= kept:
            return None
        note = page.terms.rows_cut.format(count=page.terms.count(rows - kept))
        what = f"this table has {rows:,} rows of {columns:,} columns; {rows - kept:,} rows are not in the {output}, and it says so."
        problems.append(Problem(node.span, what, "Show a part of it: `frame.head(50)`.", Severity.WARNING))
        cut = replace(
            table, rows=table.rows[:kept], kinds=table.kinds[:kept], note="; ".join(filter(None, (note, table.note)))
        )
        return replace(node, table=cut)

    blocks: n.Blocks = rewrite(page.blocks, change)
    return (replace(page, blocks=blocks) if problems else page), problems
