"""A volume as its pages see it: where the others are, and what stands around each. Outputs of one file a page go by it."""

from __future__ import annotations

from functools import cached_property
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
    html: str
    """The same, as pages in HTML have it."""
    plain: str
    number: str = ""
    part: int = -1
    downloads: tuple[tuple[str, str], ...] = ()
    """Words, and addresses from the site's folder."""
    path: str = ""
    """Of its source, from where the project begins."""
    edition: str = ""


class Site(Struct, frozen=True, dict=True):
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

    @cached_property
    def places(self) -> dict[str, int]:
        """The place of each page, by its key."""
        return {page.key: place for place, page in enumerate(self.pages)}


class Around(Struct, frozen=True, dict=True):
    """What one page needs of it."""

    site: Site
    key: str
    """Which page this is; `START` for the front page."""

    @cached_property
    def place(self) -> int:
        """Its place among the pages; -1 for the front page."""
        return self.site.places.get(self.key, -1)

    @cached_property
    def own(self) -> SitePage | None:
        """The page itself; None for the front page."""
        return self.site.pages[self.place] if self.place >= 0 else None

    @cached_property
    def address(self) -> str:
        """Where it is itself."""
        return self.own.address if self.own is not None else self.site.start

    @cached_property
    def root(self) -> str:
        """What leads from the page to the site's folder."""
        return "../" * self.address.count("/")

    def to(self, address: str) -> str:
        """A place of the site as this page leads to it."""
        return self.root + quote(address)

    def to_page(self, key: str) -> str:
        """A page as this page leads to it; empty for itself."""
        if key in {"", self.key}:
            return ""
        place = self.site.places.get(key, -1)
        return self.to(self.site.pages[place].address) if place >= 0 else ""
