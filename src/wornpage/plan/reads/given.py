"""A value given to the page."""

from __future__ import annotations

import json
from collections.abc import Iterable

from wornpage.plan.reads.kind import ReadKind

TYPE_CHECKING = False
if TYPE_CHECKING:
    from wornpage.plan.reads.here import Here
    from wornpage.session.told import Found


class GivenRead(ReadKind):
    """A value given to the page."""

    name = "given"

    def found(self, found: Found, here: Here) -> Iterable[str]:
        written = {name.replace("-", "_"): name for name in here.given}
        return (written.get(name, name) for name in found.given)

    def now(self, name: str, here: Here) -> str:
        return json.dumps(here.given.get(name, "absent"), sort_keys=True, default=str)

    def words(self, name: str, before: str, now: str, here: Here) -> str:
        return f"given.{name.replace('-', '_')} changed"


KIND = GivenRead()
