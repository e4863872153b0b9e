"""Whose a file is, and who may do what with it."""

from __future__ import annotations

from wornpage.plan.reads.kind import FileLook
from wornpage.store.files import rights

TYPE_CHECKING = False
if TYPE_CHECKING:
    from wornpage.plan.reads.here import Here


class RightsRead(FileLook):
    """Whose a file is, and who may do what with it."""

    name = "rights"

    def now(self, name: str, here: Here) -> str:
        return rights(here.full(name))

    def words(self, name: str, before: str, now: str, here: Here) -> str:
        return f"who may do what with {name} changed"


KIND = RightsRead()
