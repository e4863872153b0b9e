"""How the code of a chunk is written, on which lines."""

from __future__ import annotations

from collections.abc import Iterable

from wornpage.plan.reads.kind import ReadKind

TYPE_CHECKING = False
if TYPE_CHECKING:
    from wornpage.plan.reads.here import Here
    from wornpage.session.told import Found


class LayoutRead(ReadKind):
    """How the code of a chunk is written, on which lines."""

    name = "layout"

    def found(self, found: Found, here: Here) -> Iterable[str]:
        return (*found.layouts, *(found.lines if here.sight.lines else ()))

    def now(self, name: str, here: Here) -> str:
        return here.layouts.get(name, "absent")

    def words(self, name: str, before: str, now: str, here: Here) -> str:
        return f"it shows lines of `{name}`, which moved"


KIND = LayoutRead()
