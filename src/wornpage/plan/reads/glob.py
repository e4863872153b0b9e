"""The files that fit a pattern, with what they hold."""

from __future__ import annotations

from collections.abc import Iterable

from wornpage.plan.reads.kind import ReadKind
from wornpage.store.files import globbed

TYPE_CHECKING = False
if TYPE_CHECKING:
    from wornpage.plan.reads.here import Here
    from wornpage.session.told import Found


class GlobRead(ReadKind):
    """The files that fit a pattern, with what they hold."""

    name = "glob"
    outside = True

    def found(self, found: Found, here: Here) -> Iterable[str]:
        return found.globs

    def was(self, name: str, found: Found, here: Here) -> str:
        return found.globs[name]

    def now(self, name: str, here: Here) -> str:
        return globbed(str(here.folder), name)

    def words(self, name: str, before: str, now: str, here: Here) -> str:
        return f"the files {name} changed"


KIND = GlobRead()
