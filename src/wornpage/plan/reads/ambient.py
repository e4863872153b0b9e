"""A setting of the session, or of a library in it, that chunks can change."""

from __future__ import annotations

from collections.abc import Iterable

from wornpage.plan.reads.kind import ReadKind

TYPE_CHECKING = False
if TYPE_CHECKING:
    from wornpage.plan.reads.here import Here
    from wornpage.session.told import Found


class AmbientRead(ReadKind):
    """A setting of the session, or of a library in it, that chunks can change."""

    name = "ambient"

    def found(self, found: Found, here: Here) -> Iterable[str]:
        return (*found.coarse, *(f"rc:{key}" for key in found.rc))

    def now(self, name: str, here: Here) -> str:
        return here.ambient.get(name, "first")

    def words(self, name: str, before: str, now: str, here: Here) -> str:
        if name == "inner modules":
            return "other modules of Python's own are loaded above"
        if name.startswith("inner:"):
            return (
                f"the module {name.removeprefix('inner:')} is {'no longer' if now == 'first' else 'now'} loaded above"
            )
        return f"the setting {name.removeprefix('rc:')} changed"


KIND = AmbientRead()
