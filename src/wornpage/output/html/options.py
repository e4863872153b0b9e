"""What may be set for pages in HTML."""

from __future__ import annotations

from typing import Annotated, Literal

from msgspec import Struct

from wornpage.tree.kinds import Between, OneFile, Paths, SeveralWords, Size, Truth, Whole, Words


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
    controls: Annotated[
        SeveralWords, "Givens that readers may pick within the page, which holds what comes of all their values."
    ] = ()
    controls_from: Annotated[
        Literal["combinations", "editions"], "Which values go together: all with all, or as the editions have them."
    ] = "combinations"
    most_states: Annotated[Annotated[Whole, Between(1, 5000)], "How many ways the controls may stand in."] = 100
    most_size: Annotated[Size, "How large the page may become with all of them."] = 30 * 10**6
    origins: Annotated[
        Truth,
        "Readers may ask where a value, a figure or a table comes from: code, names of files and versions are told within the page.",
    ] = False
    code_switch: Annotated[
        Literal["no", "shown", "hidden", "beside"],
        "Readers may show the code of chunks, hide it, or see output beside it; this is how it begins.",
    ] = "no"


OPTIONS = HtmlPress
