"""Where pointers of a page by itself lead that is one of a volume: what the volume's last binding called these places."""

from __future__ import annotations

import json
from collections.abc import Iterator, Mapping
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING

from wornpage.plan import manifest
from wornpage.tree.project import volume_file_over

if TYPE_CHECKING:
    from wornpage.compose.pointers import Called

BOUND = "bound"
"""Where a volume goes if nobody says otherwise; and under what is kept what its places are called."""


class Abroad(Mapping[str, "Called"]):
    """What places of other pages are called, by label; looked for when somebody asks."""

    is_told = True

    def __init__(self, page: Path) -> None:
        self._page = page.resolve()

    @cached_property
    def volume(self) -> Path | None:
        """The list of the volume that may have the page."""
        return volume_file_over(self._page)

    @cached_property
    def _called(self) -> dict[str, Called]:
        last = manifest.last(self.volume, BOUND) if self.volume is not None else None
        if last is None or "called" not in last.headline:
            return {}
        from msgspec.json import decode

        from wornpage.compose.pointers import Called

        pages = {path for path, *_ in json.loads(last.headline.get("pages", "[]"))}
        return decode(last.headline["called"], type=dict[str, Called]) if str(self._page) in pages else {}

    @property
    def files(self) -> tuple[str, ...]:
        """What it went by, as paths the system knows."""
        return (str(manifest.manifest_file(self.volume, BOUND)),) if self.volume is not None else ()

    def __getitem__(self, label: str) -> Called:
        return self._called[label]

    def __iter__(self) -> Iterator[str]:
        return iter(self._called)

    def __len__(self) -> int:
        return len(self._called)
