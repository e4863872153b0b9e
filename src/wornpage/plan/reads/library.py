"""An installed package of a language whose packages lie in folders of their own, such as R's."""

from __future__ import annotations

from collections.abc import Iterable

from wornpage.plan.reads.kind import ReadKind
from wornpage.store.libraries import name_of, version_in

TYPE_CHECKING = False
if TYPE_CHECKING:
    from wornpage.plan.reads.here import Here
    from wornpage.session.told import Found


class LibraryRead(ReadKind):
    """An installed package, by its folder."""

    name = "library"
    outside = True

    def found(self, found: Found, here: Here) -> Iterable[str]:
        return found.libraries

    def now(self, name: str, here: Here) -> str:
        return version_in(name)

    def words(self, name: str, before: str, now: str, here: Here) -> str:
        return f"{name_of(name)} {before.partition(' ')[0]} → {now.partition(' ')[0]}"


KIND = LibraryRead()
