"""What kinds of reads may ask of a place in the page."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Any, Protocol

if TYPE_CHECKING:
    from pathlib import Path

    from wornpage.plan.sight import Sight


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

    def elsewhere(self, language: str, name: str) -> str:
        """The fingerprint of what a name stands for in another language; `absent` for none."""

    def variable(self, name: str) -> str:
        """A variable of the environment: `=` and its value, or `gone`."""
