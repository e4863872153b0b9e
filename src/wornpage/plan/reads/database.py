"""What a database server holds, as far as something tells whether it is as it was."""

from __future__ import annotations

from collections.abc import Iterable

from wornpage.plan.reads.kind import ReadKind

TYPE_CHECKING = False
if TYPE_CHECKING:
    from wornpage.plan.reads.here import Here
    from wornpage.session.told import Found


class DatabaseRead(ReadKind):
    """What a server holds, by its address and the question that tells."""

    name = "database"
    outside = True

    def found(self, found: Found, here: Here) -> Iterable[str]:
        return found.states

    def was(self, name: str, found: Found, here: Here) -> str:
        return found.states[name]

    def now(self, name: str, here: Here) -> str:
        from wornpage.session.sql.states import state_now

        return state_now(name, str(here.folder))

    def words(self, name: str, before: str, now: str, here: Here) -> str:
        return "the database does not answer" if now == "unreachable" else "what the database holds changed"


KIND = DatabaseRead()
