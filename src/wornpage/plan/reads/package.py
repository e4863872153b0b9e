"""The version of an installed library, or of one that it needs."""

from __future__ import annotations

from collections.abc import Iterable

from wornpage.plan.reads.kind import ReadKind
from wornpage.store.packages import distribution_of, placed, version_of, with_requirements

TYPE_CHECKING = False
if TYPE_CHECKING:
    from wornpage.plan.reads.here import Here
    from wornpage.session.told import Found


class PackageRead(ReadKind):
    """The version of an installed library, or of one that it needs."""

    name = "package"
    outside = True

    def found(self, found: Found, here: Here) -> Iterable[str]:
        asked = {distribution_of(name) for name in found.asked_of}
        used = (with_requirements(distribution_of(name)) for name in found.packages)
        return map(placed, asked.union(*used))

    def now(self, name: str, here: Here) -> str:
        return version_of(name)

    def words(self, name: str, before: str, now: str, here: Here) -> str:
        return f"{name.partition('@')[0]} {before} → {now}"


KIND = PackageRead()
