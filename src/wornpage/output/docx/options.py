"""What may be set for documents for word processors."""

from __future__ import annotations

from typing import Annotated, Literal

from msgspec import Struct

from wornpage.output.paper import Paper
from wornpage.tree.kinds import Truth, Words


class DocxPress(Struct, frozen=True):
    """Settings of the document for word processors."""

    paper: Annotated[
        Paper,
        "Size of the sheets: `a3` to `a6`, `letter`, `legal` or `17cm x 24cm`; ` landscape` after it lays them on their side.",
    ] = "a4"
    template: Annotated[
        Words, "A `.docx` or `.dotx` whose styles, cover, heads, feet and margins are used, relative to the page."
    ] = ""
    contents: Annotated[Truth, "Print a table of contents after the title."] = False
    colophon: Annotated[Truth, "End with the record of how the page was made."] = False
    figures: Annotated[Literal["in-place", "at-end"], "Where captioned figures and tables stand."] = "in-place"
    notes: Annotated[Literal["foot", "end"], "Where notes stand: at the foot of their sheet, or at the end."] = "foot"
    source: Annotated[
        Truth, "Carry the page's source in the document, so that what others change in it can be brought back."
    ] = True


OPTIONS = DocxPress
