"""Traces, found in two steps: code → the sets of things that its runs read → what those things are now → the trace."""

from __future__ import annotations

import json
import os
from collections.abc import Callable
from pathlib import Path

from wornpage.store.addresses import digest
from wornpage.store.place import write_whole
from wornpage.store.signing import opened, sealed
from wornpage.store.trace import Item, Trace, as_kept, from_kept


class Traces:
    """The traces of a store; `None` keeps and has none."""

    def __init__(self, folder: Path | None) -> None:
        self._folder = folder

    def find(self, code: str, now: Callable[[Item], str]) -> Trace | None:
        """A trace for this code whose every read is equal now; the newest if several sets fit."""
        found: list[tuple[float, Trace]] = []
        for items, place in self._sets(code):
            path = place / f"{digest([now(item) for item in items])}.trace"
            try:
                trace = from_kept(opened(path.read_bytes(), _place(path)), Trace)
                found.append((path.stat().st_mtime, trace))
            except (OSError, ValueError):
                continue
        return max(found, key=lambda pair: pair[0])[1] if found else None

    def at(self, code: str, set_name: str, values: str) -> Trace | None:
        """The trace at a place, as `address_in` names it; None if it is not there, or not this user's."""
        if self._folder is None:
            return None
        path = self._folder / code[:2] / code / set_name / f"{values}.trace"
        try:
            return from_kept(opened(path.read_bytes(), _place(path)), Trace)
        except (OSError, ValueError):
            return None

    def work(self, code: str, now: Callable[[Item], str]) -> str:
        """An address for running this code as things are now: two that have it would do the same, as far as `now` tells."""
        return digest(code, [[digest(items), digest([now(item) for item in items])] for items, _ in self._sets(code)])

    def _sets(self, code: str) -> list[tuple[list[Item], Path]]:
        if self._folder is None:
            return []
        place = self._folder / code[:2] / code
        try:
            names = sorted(os.listdir(place))
        except OSError:
            return []
        found = ((name, _items(place / name / "reads.json")) for name in names)
        return [(items, place / name) for name, items in found if items and digest(items) == name]

    def put(self, code: str, trace: Trace, besides: frozenset[Item] = frozenset()) -> None:
        """Keep a trace; what it read is written after it, so that whoever knows of the set finds the trace.

        It is found whatever has become of what it read `besides`.
        """
        if self._folder is None:
            return
        reads = [read for read in trace.reads if read.item not in besides]
        items = [list(read.item) for read in reads]
        place = self._folder / code[:2] / code / digest(items)
        path = place / f"{digest([read.value for read in reads])}.trace"
        write_whole(path, sealed(as_kept(trace), _place(path)))
        if not os.path.exists(place / "reads.json"):
            write_whole(place / "reads.json", json.dumps(items, ensure_ascii=False).encode("utf-8", "surrogatepass"))


def address_in(trace: Trace) -> tuple[str, str]:
    """Where the trace of a run lies among those of its code: the name of the set of its reads, and of what they were."""
    return digest([list(read.item) for read in trace.reads]), digest([read.value for read in trace.reads])


def _place(path: Path) -> str:
    """Where a trace lies, as its signature has it: for this code, these reads, these values."""
    return "/".join(path.parts[-3:])


def _items(path: Path) -> list[Item]:
    """What a set of reads names; nothing where the file is not what it should be."""
    try:
        data = json.loads(path.read_bytes())
        return [(str(kind), str(what)) for kind, what in data]
    except (OSError, ValueError, TypeError, RecursionError):
        return []
