"""How blocks that stand beside each other share the width."""

from __future__ import annotations

import re

from wornpage.tree.nodes import Container


def shares(container: Container) -> tuple[float, ...]:
    """The share of each block of a `::: side-by-side`: alike, or as its `widths=2:1` says."""
    count = len(container.blocks)
    wished = [float(part) for part in re.findall(r"\d+(?:\.\d+)?", container.attributes.get("widths"))]
    wished = [part for part in wished if part > 0][:count]
    return tuple(wished + [1.0] * (count - len(wished)))
