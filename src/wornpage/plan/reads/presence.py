"""Whether there is a name, whatever it stands for."""

from __future__ import annotations

from collections.abc import Iterable

from wornpage.plan.reads.kind import ReadKind

TYPE_CHECKING = False
if TYPE_CHECKING:
    from wornpage.plan.reads.here import Here
    from wornpage.session.told import Found


class PresenceRead(ReadKind):
    """Whether there is a name, whatever it stands for."""

    name = "presence"

    def found(self, found: Found, here: Here) -> Iterable[str]:
        return (name for name in found.present if name not in found.reads)

    def now(self, name: str, here: Here) -> str:
        return "there" if name in here.names else "absent"

    def words(self, name: str, before: str, now: str, here: Here) -> str:
        return f"looks whether there is a `{name}`, which {'is gone' if now == 'absent' else 'is there now'}"


KIND = PresenceRead()
