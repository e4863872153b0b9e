"""What may be set for LaTeX sources."""

from __future__ import annotations

from typing import Annotated, Literal

from msgspec import Struct

from wornpage.output.paper import Paper
from wornpage.tree.kinds import Truth, Words


class TexPress(Struct, frozen=True):
    """Settings of the LaTeX source, and of the PDF that is made of it."""

    paper: Annotated[
        Paper,
        "Size of the sheets: `a3` to `a6`, `letter`, `legal` or `17cm x 24cm`; ` landscape` after it lays them on their side.",
    ] = "a4"
    contents: Annotated[Truth, "Print a table of contents after the title."] = False
    colophon: Annotated[Truth, "End with the record of how the page was made."] = False
    figures: Annotated[Literal["in-place", "at-end"], "Where captioned figures and tables stand."] = "in-place"
    cites: Annotated[
        Literal["as-looks", "text", "biblatex", "natbib"],
        "How works are cited: as words, or with `\\cite` and a `.bib` file for one of two packages; `as-looks` is what the stationery says.",
    ] = "as-looks"
    font: Annotated[
        Words, "A font of the machine that sets the text, for scripts that LaTeX's own fonts do not have."
    ] = ""


OPTIONS = TexPress
