"""What may be set for books in EPUB."""

from __future__ import annotations

from typing import Annotated

from msgspec import Struct

from wornpage.tree.kinds import OneFile, Paths, Truth, Words


class EpubPress(Struct, frozen=True):
    """Settings of the EPUB."""

    cover: Annotated[OneFile, "A picture (SVG, PNG or JPEG) for the cover; one with the title otherwise."] = ""
    stylesheets: Annotated[Paths, "Style sheets to put into the book after its own."] = ()
    identifier: Annotated[
        Words, "What tells the book from all others, such as its ISBN; made from its title otherwise."
    ] = ""
    publisher: Annotated[Words, "Who publishes it."] = ""
    colophon: Annotated[Truth, "End with the record of how the page was made."] = False


OPTIONS = EpubPress
