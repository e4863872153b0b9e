"""Which files a folder holds."""

from __future__ import annotations

from collections.abc import Iterable
from typing import TYPE_CHECKING

from wornpage.plan.reads.kind import Here, ReadKind
from wornpage.store.files import listing

if TYPE_CHECKING:
    from wornpage.session.told import Found


class ListingRead(ReadKind):
    """Which files a folder holds."""

    name = "listing"
    outside = True

    def found(self, found: Found, here: Here) -> Iterable[str]:
        return found.files.get(self.name, {})

    def was(self, name: str, found: Found, here: Here) -> str:
        return found.files[self.name][name]

    def now(self, name: str, here: Here) -> str:
        return listing(here.full(name))

    def words(self, name: str, before: str, now: str, here: Here) -> str:
        return f"the files in {name} changed"


KIND = ListingRead()
