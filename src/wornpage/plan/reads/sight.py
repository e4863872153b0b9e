"""Whether code of the page asks for something that those who make things must have noted for it."""

from __future__ import annotations

from collections.abc import Iterable

from wornpage.plan.reads.kind import ReadKind

TYPE_CHECKING = False
if TYPE_CHECKING:
    from wornpage.plan.reads.here import Here
    from wornpage.session.told import Found


class SightRead(ReadKind):
    """Whether code of the page asks for something that those who make things must have noted for it."""

    name = "sight"

    def found(self, found: Found, here: Here) -> Iterable[str]:
        return ("identity",) if found.names and not here.sight.identity else ()

    def now(self, name: str, here: Here) -> str:
        return str(getattr(here.sight, name))

    def words(self, name: str, before: str, now: str, here: Here) -> str:
        return "code of the page asks now whether two things are one"


KIND = SightRead()
