"""Which files of a folder a pattern fits: what a search by `*` and `?` goes by."""

from __future__ import annotations

from wornpage.plan.reads.holding import names_at
from wornpage.plan.reads.kind import FileLook
from wornpage.store.files import fitting, listing_of

TYPE_CHECKING = False
if TYPE_CHECKING:
    from wornpage.plan.reads.here import Here


class MatchingRead(FileLook):
    """Which files of a folder a pattern fits. Its name is the folder, a tab and the pattern (`store.files.matching`)."""

    name = "matching"

    def now(self, name: str, here: Here) -> str:
        folder, _, pattern = name.partition("\t")
        return listing_of(fitting(names_at(folder, here), pattern))

    def words(self, name: str, before: str, now: str, here: Here) -> str:
        folder = name.partition("\t")[0]
        return f"there are other files in {'the folder of the page' if folder == '.' else folder} that it looks for"


KIND = MatchingRead()
