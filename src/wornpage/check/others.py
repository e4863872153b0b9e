"""What the labels of other pages are asked, where a page is one of a volume."""

from __future__ import annotations

from typing import Protocol


class Others(Protocol):
    """The labels of all pages of a work."""

    def has(self, label: str) -> bool:
        """Whether some page has a label, or may have it once it has run."""

    def known(self) -> set[str]:
        """All of them, for near misses."""
