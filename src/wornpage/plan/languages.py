"""Languages that chunks can be written in."""

from __future__ import annotations

from collections.abc import Iterable

from wornpage.tree.nodes import Chunk
from wornpage.tree.problem import Problem, near_miss

DRIVERS = ("python",)
"""Languages that a session speaks."""


def check_languages(chunks: Iterable[Chunk]) -> list[Problem]:
    """Chunks in a language that no session speaks."""
    return [
        Problem(
            chunk.span,
            f"no session runs {chunk.language!r}.",
            near_miss(chunk.language, DRIVERS) or f"There are: {', '.join(DRIVERS)}.",
        )
        for chunk in chunks
        if chunk.language not in DRIVERS
    ]
