"""When a file was changed."""

from __future__ import annotations

from wornpage.plan.reads.kind import FileLook
from wornpage.store.files import times

TYPE_CHECKING = False
if TYPE_CHECKING:
    from wornpage.plan.reads.here import Here


class TimesRead(FileLook):
    """When a file was changed."""

    name = "times"

    def now(self, name: str, here: Here) -> str:
        return times(here.full(name))

    def words(self, name: str, before: str, now: str, here: Here) -> str:
        return f"{name} was written at another time"


KIND = TimesRead()
