"""Where the page lies."""

from __future__ import annotations

from collections.abc import Iterable

from wornpage.plan.reads.kind import ReadKind

TYPE_CHECKING = False
if TYPE_CHECKING:
    from wornpage.plan.reads.here import Here
    from wornpage.session.told import Found


class PlaceRead(ReadKind):
    """Where the page lies."""

    name = "place"

    def found(self, found: Found, here: Here) -> Iterable[str]:
        return ("",) if found.placed else ()

    def now(self, name: str, here: Here) -> str:
        return str(here.folder)

    def words(self, name: str, before: str, now: str, here: Here) -> str:
        return "the page lies in another folder"


KIND = PlaceRead()
