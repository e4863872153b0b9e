"""What a name of the page stands for."""

from __future__ import annotations

from collections.abc import Iterable

from wornpage.plan.reads.kind import ReadKind

TYPE_CHECKING = False
if TYPE_CHECKING:
    from wornpage.plan.reads.here import Here
    from wornpage.session.told import Found


class NameRead(ReadKind):
    """What a name of the page stands for."""

    name = "name"

    def found(self, found: Found, here: Here) -> Iterable[str]:
        return (*found.reads, *found.absent)

    def now(self, name: str, here: Here) -> str:
        entry = here.names.get(name)
        return str(entry.print) if entry else "absent"

    def words(self, name: str, before: str, now: str, here: Here) -> str:
        if now == "absent":
            return f"reads `{name}`, which is not there any more"
        return f"reads `{name}`, which {'was not there' if before == 'absent' else 'changed'}"


KIND = NameRead()
