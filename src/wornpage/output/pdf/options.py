"""What may be set for pages in PDF."""

from __future__ import annotations

from typing import Annotated, Literal

from msgspec import Struct

from wornpage.output.paper import Paper
from wornpage.tree.kinds import Paths, Truth


class PdfPress(Struct, frozen=True):
    """Settings of the PDF output."""

    paper: Annotated[
        Paper,
        "Size of the sheets: `a3` to `a6`, `letter`, `legal` or `17cm x 24cm`; ` landscape` after it lays them on their side.",
    ] = "a4"
    contents: Annotated[Truth, "Print a table of contents after the title."] = False
    colophon: Annotated[Truth, "End with the record of how the page was made."] = False
    figures: Annotated[Literal["in-place", "at-end"], "Where captioned figures and tables stand."] = "in-place"
    fonts: Annotated[Paths, "Folders with further font files, relative to the page."] = ()


OPTIONS = PdfPress
