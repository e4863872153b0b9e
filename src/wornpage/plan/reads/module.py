"""A module of the project, with its state."""

from __future__ import annotations

from collections.abc import Iterable

from wornpage.plan.reads.kind import ReadKind

TYPE_CHECKING = False
if TYPE_CHECKING:
    from wornpage.plan.reads.here import Here
    from wornpage.session.told import Found


class ModuleRead(ReadKind):
    """A module of the project, with its state."""

    name = "module"

    def found(self, found: Found, here: Here) -> Iterable[str]:
        return found.modules_read

    def now(self, name: str, here: Here) -> str:
        return here.modules.get(name, "unloaded")


KIND = ModuleRead()
