"""That a folder is there."""

from __future__ import annotations

from wornpage.plan.reads.kind import FileLook
from wornpage.store.files import content

TYPE_CHECKING = False
if TYPE_CHECKING:
    from wornpage.plan.reads.here import Here


class FolderRead(FileLook):
    """That a folder is there; of a path where nothing is, the kind `file` tells."""

    name = "folder"

    def now(self, name: str, here: Here) -> str:
        return here.files[name][0] if name in here.files else content(here.full(name))

    def words(self, name: str, before: str, now: str, here: Here) -> str:
        return f"the folder {name} is gone" if now == "absent" else f"{name} is no folder any more"


KIND = FolderRead()
