"""Languages other than Markdown that pages can be written in, by the ending of their files."""

from __future__ import annotations

HOSTS = {
    ".tex": ("tex", ("tex", "tex-pdf", "xlsx")),
    ".rst": ("rst", ("rst", "xlsx")),
    ".html": ("html", ("html", "xlsx")),
    ".htm": ("html", ("html", "xlsx")),
}
"""The module in `source/hosts/` that reads them, and the outputs that such pages can have, the usual one first."""
USUAL = "html"
"""The output of pages in Markdown where nothing is said."""


def usual_output(suffix: str) -> str:
    """What a page is pressed to where nothing is said, by the ending of its file."""
    known = HOSTS.get(suffix.lower())
    return known[1][0] if known else USUAL
