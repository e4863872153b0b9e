"""What a name of another language stands for, which code has taken over."""

from __future__ import annotations

from collections.abc import Iterable

from wornpage.plan.reads.kind import ReadKind

TYPE_CHECKING = False
if TYPE_CHECKING:
    from wornpage.plan.reads.here import Here
    from wornpage.session.told import Found


class HandedRead(ReadKind):
    """A name of another language, told as `language name`."""

    name = "handed"

    def found(self, found: Found, here: Here) -> Iterable[str]:
        return found.handed

    def now(self, name: str, here: Here) -> str:
        language, _, inner = name.partition(" ")
        return here.elsewhere(language, inner)

    def words(self, name: str, before: str, now: str, here: Here) -> str:
        language, _, inner = name.partition(" ")
        return (
            f"takes over `{inner}` from {language}, which {'is not there any more' if now == 'absent' else 'changed'}"
        )


KIND = HandedRead()
