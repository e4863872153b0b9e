"""What lies at a path, a file or a folder: code has asked for no more. Where nothing lay, the kind `file` tells."""

from __future__ import annotations

from wornpage.plan.reads.kind import FileLook
from wornpage.store.files import FOLDER, entry

TYPE_CHECKING = False
if TYPE_CHECKING:
    from wornpage.plan.reads.here import Here


class EntryRead(FileLook):
    """Whether a file or a folder lies at a path."""

    name = "entry"

    def now(self, name: str, here: Here) -> str:
        if name not in here.files:
            return entry(here.full(name))
        held = here.files[name][0]
        return held if held in {"absent", FOLDER} or ":" in held else "file"

    def words(self, name: str, before: str, now: str, here: Here) -> str:
        what = f"the folder {name}" if before == FOLDER else name
        return f"{what} is gone" if now == "absent" else f"{what} is another kind of thing now"


KIND = EntryRead()
