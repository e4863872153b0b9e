"""The languages of a page's chunks."""

from __future__ import annotations

from collections.abc import Iterable

from wornpage.session.languages import known, language_of, names
from wornpage.tree.nodes import Chunk
from wornpage.tree.problem import Problem, near_miss

MAIN = "python"
"""The language that values in sentences, and what inserts are given, are written in."""


def spoken(chunk: Chunk) -> str:
    """The name of the language of a chunk, whichever of its words stands behind the fence. Raises `LookupError`."""
    return known(chunk.language).name


def check_languages(chunks: Iterable[Chunk]) -> list[Problem]:
    """Chunks in a language that no session speaks."""
    return [
        Problem(
            chunk.span,
            f"no session runs {chunk.language!r}.",
            near_miss(chunk.language, names()) or f"There are: {', '.join(names())}.",
        )
        for chunk in chunks
        if language_of(chunk.language) is None
    ]
