"""With which names, and how, a name holds something together."""

from __future__ import annotations

from collections.abc import Iterable

from wornpage.plan.reads.kind import ReadKind
from wornpage.store.addresses import digest

TYPE_CHECKING = False
if TYPE_CHECKING:
    from wornpage.plan.reads.here import Here
    from wornpage.session.told import Found


class SharingRead(ReadKind):
    """With which names, and how, a name holds something together."""

    name = "sharing"

    def found(self, found: Found, here: Here) -> Iterable[str]:
        # Where code asks if two things are one, whoever reads a name may see how it is held.
        return (*found.sharing, *(found.reads if here.sight.identity else ()))

    def now(self, name: str, here: Here) -> str:
        entry = here.names.get(name)
        if entry is None:
            return "absent"
        beside = " and outside" if entry.outside else ""
        if not entry.group:
            return f"alone{beside}"
        return digest(sorted(n for n, e in here.names.items() if e.group == entry.group), entry.pattern) + beside

    def words(self, name: str, before: str, now: str, here: Here) -> str:
        return f"depends on what holds `{name}` together with other names, which changed"


KIND = SharingRead()
