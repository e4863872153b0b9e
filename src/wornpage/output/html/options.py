"""What may be set for pages in HTML."""

from __future__ import annotations

from typing import Annotated, Literal

from msgspec import Struct

from wornpage.tree.kinds import OneFile, Paths, Truth, Words


class HtmlPress(Struct, frozen=True):
    """Settings of the HTML output."""

    contents: Annotated[Literal["side", "above", "none"], "Where the table of contents stands."] = "side"
    colophon: Annotated[Truth, "End with the record of how the page was made."] = False
    documentation_links: Annotated[Truth, "Lead names of libraries in shown code to their documentation."] = False
    documentation: Annotated[
        dict[str, Words], "Further addresses, by pattern of names: `mylib.*: https://docs.example/{name}.html`."
    ] = {}
    head: Annotated[OneFile, "A file with HTML to put into the page's head."] = ""
    stylesheets: Annotated[Paths, "Style sheets to put into the page after its own."] = ()


OPTIONS = HtmlPress
