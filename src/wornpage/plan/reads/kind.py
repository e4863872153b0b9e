"""What a kind of read is: how it is found, what it is now, and how a change of it is said."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import TYPE_CHECKING, Any, Protocol

if TYPE_CHECKING:
    from pathlib import Path

    from wornpage.plan.sight import Sight
    from wornpage.session.told import Found


class Here(Protocol):
    """What holds at a place of the page, as far as kinds of reads ask for it."""

    @property
    def folder(self) -> Path:
        """The page's."""

    @property
    def seed(self) -> int:
        """Of the chunk or mark that is asked about."""

    @property
    def given(self) -> Mapping[str, object]: ...

    @property
    def names(self) -> Mapping[str, Any]:
        """What each name of the page stands for (`plan.state.Entry`), in the order in which the page binds them."""

    @property
    def ambient(self) -> Mapping[str, str]: ...

    @property
    def effects(self) -> str: ...

    @property
    def modules(self) -> Mapping[str, str]: ...

    @property
    def files(self) -> Mapping[str, tuple[str, int]]: ...

    @property
    def layouts(self) -> Mapping[str, str]: ...

    @property
    def sight(self) -> Sight: ...

    def full(self, path: str) -> str:
        """A path as the system knows it."""

    def variable(self, name: str) -> str:
        """A variable of the environment: `=` and its value, or `gone`."""


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
