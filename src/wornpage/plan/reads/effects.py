"""What chunks above have left behind that cannot be set back. Everything reads it."""

from __future__ import annotations

from collections.abc import Iterable

from wornpage.plan.reads.kind import ReadKind

TYPE_CHECKING = False
if TYPE_CHECKING:
    from wornpage.plan.reads.here import Here
    from wornpage.session.told import Found


class EffectsRead(ReadKind):
    """What chunks above have left behind that cannot be set back. Everything reads it."""

    name = "effects"

    def found(self, found: Found, here: Here) -> Iterable[str]:
        return ("",)

    def now(self, name: str, here: Here) -> str:
        return here.effects


KIND = EffectsRead()
