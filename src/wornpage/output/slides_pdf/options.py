"""What may be set for slides in PDF; how pages are cut into slides is set for `slides`."""

from __future__ import annotations

from typing import Annotated, Literal

from msgspec import Struct

from wornpage.tree.kinds import Paths


class SlidesPdfPress(Struct, frozen=True):
    """Settings of slides in PDF."""

    sheets: Annotated[
        Literal["slides", "steps", "handout"],
        "What a sheet holds: a slide, one step of a slide, or three slides with lines to write on.",
    ] = "slides"
    fonts: Annotated[Paths, "Folders with further font files, relative to the page."] = ()


OPTIONS = SlidesPdfPress
