"""What a file holds."""

from __future__ import annotations

from wornpage.plan.reads.kind import FileLook
from wornpage.store.files import content

TYPE_CHECKING = False
if TYPE_CHECKING:
    from wornpage.plan.reads.here import Here


class FileRead(FileLook):
    """What a file holds."""

    name = "file"

    def now(self, name: str, here: Here) -> str:
        return here.files[name][0] if name in here.files else content(here.full(name))

    def words(self, name: str, before: str, now: str, here: Here) -> str:
        if now == "absent":
            return f"{name} is gone"
        return f"{name} appeared" if before == "absent" else f"{name} changed on {_changed_on(here.full(name))}"


def _changed_on(path: str) -> str:
    """When a file was last changed, to the minute."""
    import datetime
    import os

    try:
        return f"{datetime.datetime.fromtimestamp(os.stat(path).st_mtime):%Y-%m-%d at %H:%M}"
    except OSError:
        return "a day unknown"


KIND = FileRead()
