"""Which names there are, and in which order."""

from __future__ import annotations

from collections.abc import Iterable

from wornpage.plan.reads.kind import ReadKind
from wornpage.store.addresses import digest

TYPE_CHECKING = False
if TYPE_CHECKING:
    from wornpage.plan.reads.here import Here
    from wornpage.session.told import Found


class NamesRead(ReadKind):
    """Which names there are, and in which order."""

    name = "names"

    def found(self, found: Found, here: Here) -> Iterable[str]:
        return ("",) if found.listed else ()

    def now(self, name: str, here: Here) -> str:
        return digest(list(here.names))

    def words(self, name: str, before: str, now: str, here: Here) -> str:
        return "looks which names there are, and they changed"


KIND = NamesRead()
