"""What random numbers begin with."""

from __future__ import annotations

from collections.abc import Iterable

from wornpage.plan.reads.kind import ReadKind

TYPE_CHECKING = False
if TYPE_CHECKING:
    from wornpage.plan.reads.here import Here
    from wornpage.session.told import Found


class SeedRead(ReadKind):
    """What random numbers begin with."""

    name = "seed"

    def found(self, found: Found, here: Here) -> Iterable[str]:
        return ("",) if found.seed else ()

    def now(self, name: str, here: Here) -> str:
        return str(here.seed)

    def words(self, name: str, before: str, now: str, here: Here) -> str:
        return "its seed changed"


KIND = SeedRead()
