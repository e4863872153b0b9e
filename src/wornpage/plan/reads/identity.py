"""Whether the word that a name stands for is the one of its kind."""

from __future__ import annotations

from collections.abc import Iterable

from wornpage.plan.reads.kind import ReadKind

TYPE_CHECKING = False
if TYPE_CHECKING:
    from wornpage.plan.reads.here import Here
    from wornpage.session.told import Found


class IdentityRead(ReadKind):
    """Whether the word that a name stands for is the one of its kind."""

    name = "identity"

    def found(self, found: Found, here: Here) -> Iterable[str]:
        return found.reads if here.sight.identity else ()

    def now(self, name: str, here: Here) -> str:
        entry = here.names.get(name)
        return str(bool(entry and entry.interned))


KIND = IdentityRead()
