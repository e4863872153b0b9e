"""What may be set for the PDF that a TeX makes."""

from __future__ import annotations

from typing import Annotated, Literal

from msgspec import Struct


class TexPdfPress(Struct, frozen=True):
    """Settings of the PDF made of the LaTeX source; all else is set for `tex`."""

    engine: Annotated[
        Literal["any", "lualatex", "xelatex", "pdflatex"],
        "The program that compiles it; `any` takes the first that is there.",
    ] = "any"


OPTIONS = TexPdfPress
