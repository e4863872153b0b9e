"""Small results by block of a page, such as coloured code, kept between pressings: never needed, only faster."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from wornpage.store.place import write_whole

_MOST = 20_000
"""Entries that are kept; beyond, those not used in this pressing go."""


class BlockCache:
    """Plain data by key, in one file. `name` holds the version of what is kept."""

    def __init__(self, name: str) -> None:
        self._name = name
        self._path: Path | None = None
        self._known: dict[str, Any] = {}
        self._used: dict[str, Any] = {}
        self._changed = False

    def open(self, folder: Path | None) -> None:
        """Use the file in `folder`; None to use none."""
        self._path = folder / f"{self._name}.json" if folder else None
        self._known, self._used, self._changed = {}, {}, False
        if self._path is not None:
            try:
                self._known = json.loads(self._path.read_bytes())
            except (OSError, ValueError):
                self._known = {}

    def get(self, key: str) -> Any:
        """What is kept under `key`; None for nothing."""
        found = self._known.get(key)
        if found is not None:
            self._used[key] = found
        return found

    def put(self, key: str, value: Any) -> None:
        """Keep `value`."""
        self._known[key] = self._used[key] = value
        self._changed = True

    def save(self) -> None:
        """Write the file if anything is new."""
        if self._changed and self._path is not None:
            kept = self._known if len(self._known) <= _MOST else self._used
            write_whole(
                self._path, json.dumps(kept, ensure_ascii=False, separators=(",", ":")).encode("utf-8", "surrogatepass")
            )
        self._changed = False
