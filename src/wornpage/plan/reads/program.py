"""A program that code calls: where it lies, its size, when it was changed."""

from __future__ import annotations

from collections.abc import Iterable

from wornpage.plan.reads.kind import ReadKind
from wornpage.store.programs import identity

TYPE_CHECKING = False
if TYPE_CHECKING:
    from wornpage.plan.reads.here import Here
    from wornpage.session.told import Found


class ProgramRead(ReadKind):
    """A program that code calls."""

    name = "program"
    outside = True

    def found(self, found: Found, here: Here) -> Iterable[str]:
        return found.programs

    def now(self, name: str, here: Here) -> str:
        return identity(name)

    def words(self, name: str, before: str, now: str, here: Here) -> str:
        return f"the program {name} {'is gone' if now == 'absent' else 'is another now'}"


KIND = ProgramRead()
