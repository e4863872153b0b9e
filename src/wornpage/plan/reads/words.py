"""Which words of code are names of the page, whatever they stand for: one that is added may come between."""

from __future__ import annotations

from collections.abc import Iterable

from wornpage.plan.reads.kind import ReadKind
from wornpage.store.addresses import digest

TYPE_CHECKING = False
if TYPE_CHECKING:
    from wornpage.plan.reads.here import Here
    from wornpage.session.told import Found


class WordsRead(ReadKind):
    """Which words of code are names of the page."""

    name = "words"

    def found(self, found: Found, here: Here) -> Iterable[str]:
        return ("\n".join(found.words),) if found.words else ()

    def now(self, name: str, here: Here) -> str:
        return digest([word for word in name.split("\n") if word in here.names])

    def words(self, name: str, before: str, now: str, here: Here) -> str:
        return "mentions words that became names, or are none any more"


KIND = WordsRead()
