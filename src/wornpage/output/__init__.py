"""A composed page becomes files: one writer an output."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from msgspec import Struct

from wornpage.settings import PageSettings
from wornpage.tree.nodes import Composed
from wornpage.tree.problem import Problem


class Written(Struct, frozen=True):
    """What a writer made."""

    data: bytes
    problems: tuple[Problem, ...] = ()


Writer = Callable[[Composed, PageSettings, Path, str], Written]
"""A writer gets the page, its settings, its folder and its name for messages."""


def _html() -> Writer:
    from wornpage.output.html.writer import write_html

    return write_html


def _pdf() -> Writer:
    from wornpage.output.pdf.writer import write_pdf

    return write_pdf


WRITERS: dict[str, Callable[[], Writer]] = {"html": _html, "pdf": _pdf}
"""The outputs there are; each is imported only when it is asked for."""
