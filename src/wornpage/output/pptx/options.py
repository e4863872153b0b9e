"""What may be set for presentations; how pages are cut into slides is set for `slides`."""

from __future__ import annotations

from typing import Annotated

from msgspec import Struct

from wornpage.tree.kinds import OneFile, Words

USES = ("title", "section", "text", "columns", "bare", "blank")
"""What layouts are for."""


class PptxPress(Struct, frozen=True):
    """Settings of the presentation."""

    template: Annotated[
        OneFile, "A `.pptx` or `.potx` whose layouts, fonts, colours and logo are used, relative to the page."
    ] = ""
    title_layout: Annotated[
        Words, "What the template calls its layout for the first slide, where that is not found."
    ] = ""
    section_layout: Annotated[Words, "So for slides that hold a heading alone."] = ""
    text_layout: Annotated[Words, "So for a title and text."] = ""
    columns_layout: Annotated[Words, "So for a title and two columns."] = ""
    bare_layout: Annotated[Words, "So for a title alone."] = ""
    blank_layout: Annotated[Words, "So for an empty slide."] = ""


OPTIONS = PptxPress
