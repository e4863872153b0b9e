"""A variable of the environment."""

from __future__ import annotations

from collections.abc import Iterable

from wornpage.plan.reads.kind import ReadKind

TYPE_CHECKING = False
if TYPE_CHECKING:
    from wornpage.plan.reads.here import Here
    from wornpage.session.told import Found


class EnvironmentRead(ReadKind):
    """A variable of the environment."""

    name = "environment"
    outside = True

    def found(self, found: Found, here: Here) -> Iterable[str]:
        return found.environment

    def was(self, name: str, found: Found, here: Here) -> str:
        # One that a chunk above has set is told by the surroundings.
        return found.environment[name] if f"env:{name}" not in here.ambient else self.now(name, here)

    def now(self, name: str, here: Here) -> str:
        return here.variable(name)

    def words(self, name: str, before: str, now: str, here: Here) -> str:
        return f"the environment variable {name} changed"


KIND = EnvironmentRead()
