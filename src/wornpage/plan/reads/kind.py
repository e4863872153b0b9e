"""What a kind of read is: how it is found, what it is now, and how a change of it is said."""

from __future__ import annotations

TYPE_CHECKING = False
"""True for the type checker: the library of types is not imported where `worn` has to find out that nothing is to do."""
if TYPE_CHECKING:
    from collections.abc import Iterable

    from wornpage.plan.reads.here import Here
    from wornpage.session.told import Found


class ReadKind:
    """One kind. A file of this folder makes one, and `reads.KINDS` names it."""

    name = ""
    outside = False
    """Whether it can change without the page's text: then it is looked at before anything else is done."""

    def found(self, found: Found, here: Here) -> Iterable[str]:
        """The names of what code has read of this kind."""
        raise NotImplementedError

    def was(self, name: str, found: Found, here: Here) -> str:
        """What it was when it was read: what it is now, unless the session says."""
        return self.now(name, here)

    def now(self, name: str, here: Here) -> str:
        """What it is."""
        raise NotImplementedError

    def words(self, name: str, before: str, now: str, here: Here) -> str:
        """That it is another now, in words that follow on the chunk's name."""
        return "a change that a chunk above left behind"


class FileLook(ReadKind):
    """A kind of look at files or folders: the session tells what was found, and they may change at any time."""

    outside = True

    def found(self, found: Found, here: Here) -> Iterable[str]:
        """The paths that were looked at."""
        return found.files.get(self.name, {})

    def was(self, name: str, found: Found, here: Here) -> str:
        """What the session found."""
        return found.files[self.name][name]
