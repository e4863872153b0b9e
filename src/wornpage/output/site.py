"""A volume as its pages see it: where the others are, and what stands around each. Outputs of one file a page go by it."""

from __future__ import annotations

import posixpath
from urllib.parse import quote

from msgspec import Struct

from wornpage.tree import nodes as n

START = ""
"""The key of the front page."""


class SitePage(Struct, frozen=True):
    """One page, as the contents of the whole have it."""

    key: str
    address: str
    """From the site's folder: `chapters/damp.html`."""
    words: n.Inlines
    """Its title."""
    plain: str
    number: str = ""
    word: str = ""
    sections: tuple[n.ContentsEntry, ...] = ()
    part: int = -1
    downloads: tuple[tuple[str, str], ...] = ()
    """Words, and addresses from the site's folder."""
    path: str = ""
    """Of its source, from where the project begins."""
    edition: str = ""


class Site(Struct, frozen=True):
    """All of them, in their order."""

    title: str
    pages: tuple[SitePage, ...]
    parts: tuple[tuple[str, str], ...] = ()
    """Number and title."""
    start: str = "index.html"
    """Where the front page is."""
    search: str = ""
    """Where the index for searching is; empty for none."""
    address: str = ""
    """Where it is published."""
    source_link: str = ""
    report_link: str = ""
    direction: str = "ltr"


class Around(Struct, frozen=True):
    """What one page needs of it."""

    site: Site
    key: str
    """Which page this is; `START` for the front page."""

    @property
    def place(self) -> int:
        """Its place among the pages; -1 for the front page."""
        return next((at for at, page in enumerate(self.site.pages) if page.key == self.key), -1)

    @property
    def own(self) -> SitePage | None:
        """The page itself; None for the front page."""
        return self.site.pages[self.place] if self.place >= 0 else None

    @property
    def address(self) -> str:
        """Where it is itself."""
        return self.own.address if self.own is not None else self.site.start

    def to(self, address: str) -> str:
        """A place of the site as this page leads to it."""
        folder = posixpath.dirname(self.address)
        return quote(posixpath.relpath(address, folder) if folder else address)

    def to_page(self, key: str) -> str:
        """A page as this page leads to it; empty for itself."""
        if key in {"", self.key}:
            return ""
        found = next((page.address for page in self.site.pages if page.key == key), "")
        return self.to(found) if found else ""
