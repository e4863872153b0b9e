"""How long it takes to have something from a shelf, by what it took before."""

from __future__ import annotations

import json
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from wornpage.settings.models import TeamStore
from wornpage.store.addresses import digest
from wornpage.store.place import write_whole

_LATENCY, _RATE, _NEAR = 0.05, 20e6, 200e6
"""What is taken for likely at first: seconds an asking takes, bytes a second, and those of a folder."""
_NEW = 0.3
"""How much of what is measured counts against what was known."""
_SMALL = 200_000
"""Bytes up to which a fetch tells how long an asking takes, and beyond which how fast bytes come."""


def pace_of(store: Path, asked: TeamStore) -> Pace:
    """What is known of a shelf, for the store at hand."""
    return Pace(known_of(store, asked, "pace"), "://" not in asked.at)


def known_of(store: Path, asked: TeamStore, what: str) -> Path:
    """Where something is kept that is known of a shelf: of one bucket on two servers it is two."""
    return store / "team" / f"{digest(asked.at, asked.endpoint, asked.region)}.{what}"


class Pace:
    """What was measured of one shelf, kept in a file."""

    def __init__(self, path: Path, is_near: bool = False) -> None:
        self._path = path
        self._latency, self._rate = _LATENCY, _NEAR if is_near else _RATE
        try:
            told = json.loads(path.read_bytes())
            self._latency, self._rate = max(float(told["latency"]), 1e-5), max(float(told["rate"]), 1e3)
        except (OSError, ValueError, TypeError, KeyError):
            pass

    def seconds(self, count: int, size: int) -> float:
        """What having so many things takes, of so many bytes together, eight at once."""
        return self._latency * (2 + count / 8) + size / self._rate

    def note(self, seconds: float, size: int) -> None:
        """Something of `size` bytes took so long to have, or to put there."""
        if size <= _SMALL:
            self._latency += _NEW * (min(seconds, 5.0) - self._latency)
        else:
            self._rate += _NEW * (size / max(seconds - self._latency, 1e-4) - self._rate)

    @contextmanager
    def measured(self, size: int) -> Iterator[None]:
        """Note how long something of `size` bytes takes."""
        begun = time.monotonic()
        yield
        self.note(time.monotonic() - begun, size)

    def keep(self) -> None:
        """For the next time."""
        write_whole(self._path, json.dumps({"latency": self._latency, "rate": self._rate}).encode())
