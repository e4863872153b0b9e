"""What a shelf is: somewhere to put bytes under names, and to have them again. One file a kind of shelf."""

from __future__ import annotations

from pathlib import Path
from typing import Protocol


class Away(Exception):
    """A shelf cannot be reached, or will not do what is asked; the words say why."""


class Shelf(Protocol):
    """Somewhere that everyone of a team can reach. Every call may raise `Away`."""

    def names(self, below: str) -> dict[str, int]:
        """The names that begin with `below`, without it, and how many bytes each has."""

    def has(self, name: str) -> bool:
        """Whether something is there."""

    def get(self, name: str) -> bytes | None:
        """Something small; None if it is not there."""

    def fetch(self, name: str, path: Path, until: float) -> bool:
        """Write something to a file; False if it is not there. Gives up with `Away` when the clock `time.monotonic` passes `until`."""

    def put(self, name: str, data: bytes | Path) -> None:
        """Put bytes, or those of a file, under a name: whole or not at all."""
