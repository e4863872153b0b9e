"""The outputs there are: ours, each with its folder, and those that installed packages bring.

Settings know of each only its options; `wornpage.output` knows how to write it.
"""

from __future__ import annotations

from functools import cache

import msgspec
from msgspec import Struct

from wornpage.tree.plugins import brought, load

TABLE = {
    "html": "wornpage.output.html",
    "pdf": "wornpage.output.pdf",
    "docx": "wornpage.output.docx",
    "epub": "wornpage.output.epub",
    "slides": "wornpage.output.slides",
    "slides-pdf": "wornpage.output.slides_pdf",
    "pptx": "wornpage.output.pptx",
    "xlsx": "wornpage.output.xlsx",
    "tex": "wornpage.output.tex",
    "tex-pdf": "wornpage.output.tex_pdf",
    "rst": "wornpage.output.rst",
}
"""By name: the package that has `options.OPTIONS` and `kind.OUTPUT`."""
ENTRY_POINTS = "wornpage.outputs"
"""The group of entry points by which a package brings an output: each names an object as `OUTPUT` is."""
USUAL = "html"
"""What a page is pressed to where nothing is said."""


@cache
def names() -> tuple[str, ...]:
    """The names of all outputs."""
    return (*TABLE, *(name for name in brought(ENTRY_POINTS) if name not in TABLE))


@cache
def options_of(name: str) -> type[Struct]:
    """What may be set for an output under `press:`."""
    place = f"{TABLE[name]}.options:OPTIONS" if name in TABLE else f"{brought(ENTRY_POINTS)[name]}.options"
    options: type[Struct] = load(place)
    return options


def press_settings() -> type[Struct]:
    """The settings under `press:`, a field an output."""
    fields = [(_key(name), options_of(name), options_of(name)()) for name in names()]
    made = msgspec.defstruct("Press", fields, frozen=True, module=__name__)
    made.__doc__ = "Settings of the outputs."
    return made


def _key(name: str) -> str:
    return name.replace("-", "_")
