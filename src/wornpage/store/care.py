"""Looking after a store: how large it is, what may go, what its user vouches for."""

from __future__ import annotations

import json
import os
import shutil
import time
from contextlib import suppress
from pathlib import Path

from msgspec import Struct

from wornpage.store.place import files_in, write_whole
from wornpage.store.signing import body_of, opened, resealed
from wornpage.store.trace import Trace, from_kept

_A_DAY = 86_400


class Size(Struct, frozen=True):
    """What a store holds."""

    traces: int
    values: int
    bytes: int
    pages: tuple[str, ...]
    """Pages that were pressed with it."""


def size(store: Path) -> Size:
    """How large a store is, and for which pages."""
    traces = list(files_in(store / "traces", ".trace"))
    blobs = list(files_in(store / "blobs"))
    total = sum(_bytes(path) for path in files_in(store))
    places = (path.relative_to(store / "manifests") for path in files_in(store / "manifests", ".json"))
    pages = tuple(sorted({str(place).removesuffix(".json") for place in places if place.name.endswith(".md.json")}))
    return Size(len(traces), len(blobs), total, pages)


def _bytes(path: Path) -> int:
    try:
        return path.stat().st_size
    except OSError:
        return 0


def _changed(path: Path) -> float:
    """When a file was last changed, in seconds since the epoch; now for one that is going at this moment."""
    try:
        return path.stat().st_mtime
    except OSError:
        return time.time()


def _remove(path: Path) -> None:
    """Take a file away; one that has gone, or has to stay, is no error: what was freed is counted afterwards."""
    with suppress(OSError):
        path.unlink()


def in_use(store: Path) -> tuple[set[str], set[str]]:
    """Runs and addresses that the present state of some page uses: these never go."""
    runs = runs_in_use(store)
    addresses: set[str] = set()
    for path in files_in(store / "traces", ".trace"):
        trace = _read(path)
        if trace and trace.run in runs:
            addresses |= trace.addresses
    return runs, addresses


def runs_in_use(store: Path) -> set[str]:
    """The runs that pages went by when they were last pressed."""
    runs: set[str] = set()
    for path in files_in(store / "last", ".last"):
        with suppress(OSError, ValueError):
            runs |= {entry["run"] for entry in opened(path.read_bytes(), path.name).values() if "run" in entry}
    return runs


def _read(path: Path) -> Trace | None:
    try:
        return from_kept(json.loads(body_of(path.read_bytes())), Trace)
    except (OSError, ValueError, RecursionError):
        return None


def trim(store: Path, days: float | None = None, limit: int | None = None) -> int:
    """Let go of traces not used for `days`, then of the oldest until `limit` bytes are kept; returns bytes freed.

    What the present state of a page uses stays, whatever is asked.
    """
    before = size(store).bytes
    runs, _ = in_use(store)
    traces = sorted(
        ((_changed(path), path, _read(path)) for path in files_in(store / "traces", ".trace")), key=lambda t: t[0]
    )
    spare = [(when, path, trace) for when, path, trace in traces if trace is None or trace.run not in runs]
    edge = time.time() - days * 86_400 if days is not None else 0.0
    for when, path, _trace in spare:
        if days is not None and when < edge:
            _remove(path)
    _sweep(store)
    for _when, path, _trace in spare:
        if limit is None or size(store).bytes <= limit:
            break
        _remove(path)
        _sweep(store)
    return before - size(store).bytes


def keep_bounded(store: Path, limit: int) -> None:
    """Trim a store that has grown beyond `limit` bytes; looked at once a day."""
    stamp = store / "looked-after"
    try:
        if time.time() - stamp.stat().st_mtime < _A_DAY:
            return
    except OSError:
        pass
    write_whole(stamp, b"")
    _sweep_parts(store, 3600)
    if size(store).bytes > limit:
        trim(store, None, limit)


def _sweep(store: Path) -> None:
    """Remove blobs that no trace refers to, and parts that a broken-off writer left; young ones may be on their way."""
    used: set[str] = set()
    for path in files_in(store / "traces", ".trace"):
        trace = _read(path)
        if trace:
            used |= trace.addresses
    for path in files_in(store / "blobs"):
        if path.name not in used and time.time() - _changed(path) > 60:
            _remove(path)
    _sweep_parts(store, 3600)


def clear(store: Path) -> int:
    """Remove a store and everything in it; returns the bytes freed. Raises `OSError` for the first thing that stays."""
    before = size(store).bytes
    failed: list[OSError] = []
    if os.path.lexists(store):
        shutil.rmtree(
            store, onerror=lambda act, path, told: failed.append(told[1]) if isinstance(told[1], OSError) else None
        )
    if failed and os.path.lexists(store):
        raise failed[0]
    return before


def tidy(store: Path) -> None:
    """Take away the locks that runs which were ended by force left behind: those that nobody holds."""
    try:
        import fcntl
    except ImportError:
        return
    for path in files_in(store / "running"):
        with suppress(OSError), path.open("ab") as handle:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
            path.unlink()


def _sweep_parts(store: Path, age: float) -> None:
    for path in files_in(store, ".part"):
        with suppress(OSError):
            if time.time() - path.stat().st_mtime > age:
                path.unlink()


def vouch(store: Path) -> int:
    """Sign everything in a store with this user's key: what others have made is trusted from now on. Returns how much."""
    count = 0
    for suffix, parts in ((".trace", 3), (".marks", 1), (".last", 1)):
        for path in files_in(store, suffix):
            place = "/".join(path.parts[-parts:])
            try:
                raw = path.read_bytes()
                opened(raw, place)
            except ValueError:
                write_whole(path, resealed(raw, place))
                count += 1
            except OSError:
                continue
    return count
