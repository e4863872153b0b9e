"""Where the branches and tags of a repository stand: read by code that asks the repository's program."""

from __future__ import annotations

from wornpage.plan.reads.kind import FileLook
from wornpage.store.repositories import state_of

TYPE_CHECKING = False
if TYPE_CHECKING:
    from wornpage.plan.reads.here import Here


class RepositoryRead(FileLook):
    """Where the branches and tags of a repository stand; by the folder that holds it."""

    name = "repository"

    def now(self, name: str, here: Here) -> str:
        return state_of(here.full(name))

    def words(self, name: str, before: str, now: str, here: Here) -> str:
        return "the repository stands at another commit"


KIND = RepositoryRead()
