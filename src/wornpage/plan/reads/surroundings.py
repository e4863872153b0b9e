"""All variables of the environment that chunks have set: what a child process may see."""

from __future__ import annotations

from collections.abc import Iterable

from wornpage.plan.reads.kind import ReadKind
from wornpage.store.addresses import digest

TYPE_CHECKING = False
if TYPE_CHECKING:
    from wornpage.plan.reads.here import Here
    from wornpage.session.told import Found


class SurroundingsRead(ReadKind):
    """All variables of the environment that chunks have set: what a child process may see."""

    name = "surroundings"

    def found(self, found: Found, here: Here) -> Iterable[str]:
        return ("",) if found.spawned else ()

    def now(self, name: str, here: Here) -> str:
        return digest(sorted((k, v) for k, v in here.ambient.items() if k.startswith("env:")))


KIND = SurroundingsRead()
