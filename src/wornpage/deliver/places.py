"""What a place is: what lies there of what was delivered before, and how it is changed. One file a kind of place."""

from __future__ import annotations

import json
from typing import Protocol

from msgspec import Struct

from wornpage.tree.files import as_json

LIST = ".worn-delivered.json"
"""Names what was delivered, so that the next delivery takes away what is gone, and nothing of others."""


class Change(Struct, frozen=True):
    """What a delivery does."""

    came: tuple[str, ...]
    changed: tuple[str, ...]
    went: tuple[str, ...]
    same: int

    @property
    def is_empty(self) -> bool:
        """Whether there is nothing to do."""
        return not (self.came or self.changed or self.went)


class Place(Protocol):
    """Somewhere that files can be put."""

    def change(self, files: dict[str, bytes]) -> Change:
        """What putting them there would do. Raises `UsageError` where it cannot be reached."""

    def put(self, files: dict[str, bytes]) -> None:
        """Put them there, all or none. Raises `UsageError`."""


def listed(raw: bytes | None) -> set[str]:
    """The names in a list of what was delivered; none where it is damaged."""
    try:
        names = json.loads(raw or b"[]")
    except ValueError:
        return set()
    return {name for name in names if isinstance(name, str)} if isinstance(names, list) else set()


def listing(files: dict[str, bytes]) -> bytes:
    """The list for the next time."""
    return as_json(json.dumps(sorted(files), ensure_ascii=False, indent=1) + "\n")


def changes(files: dict[str, bytes], there: dict[str, bytes], before: set[str]) -> Change:
    """What differs between what is delivered and what lies there; `before` are names that were delivered earlier."""
    came = sorted(name for name in files if name not in there)
    changed = sorted(name for name in files if name in there and there[name] != files[name])
    went = sorted(name for name in before if name not in files and name in there)
    return Change(tuple(came), tuple(changed), tuple(went), len(files) - len(came) - len(changed))
