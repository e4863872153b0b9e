"""Which files a folder holds."""

from __future__ import annotations

from wornpage.plan.reads.holding import names_at
from wornpage.plan.reads.kind import FileLook
from wornpage.store.files import listing_of

TYPE_CHECKING = False
if TYPE_CHECKING:
    from wornpage.plan.reads.here import Here


class ListingRead(FileLook):
    """Which files a folder holds."""

    name = "listing"

    def now(self, name: str, here: Here) -> str:
        return listing_of(names_at(name, here))

    def words(self, name: str, before: str, now: str, here: Here) -> str:
        return f"the files in {name} changed"


KIND = ListingRead()
