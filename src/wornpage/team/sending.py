"""Runs on their way to the team: noted when they were made, sent by a process of its own, so that nobody waits."""

from __future__ import annotations

import json
import subprocess
import sys
import time
import zlib
from contextlib import suppress
from pathlib import Path

import msgspec
from msgspec import Struct

from wornpage.settings.models import TeamStore
from wornpage.store.addresses import digest
from wornpage.store.alone import alone, is_held
from wornpage.store.blobs import Blobs
from wornpage.store.care import runs_in_use
from wornpage.store.place import files_in, write_whole
from wornpage.store.trace import Trace, as_kept
from wornpage.store.traces import Traces, address_in
from wornpage.team.keys import is_kept, own_key, own_secret, trusted
from wornpage.team.names import blob_name, reads_name, run_name, runs_of
from wornpage.team.pace import pace_of
from wornpage.team.shelf import Away
from wornpage.team.shelves import open_shelf
from wornpage.team.signed import signed

_LOCK = "sending"
_OLD = 7 * 24 * 3600.0
"""Seconds after which what could not be sent is let go."""
LEAST = 0.2
"""Seconds that a run must have taken."""


class Note(Struct, frozen=True):
    """A run that is to be sent."""

    code: str
    set_name: str
    values: str
    to: TeamStore
    project: str


class Sent(Struct, frozen=True):
    """What has been sent."""

    runs: int
    size: int
    """Bytes."""
    left: int
    """Runs that wait for another time."""
    trouble: str = ""
    """Why."""


def note(store: Path, to: TeamStore, project: Path, trace: Trace) -> bool:
    """Note that a run is to be sent; False for one that is made again sooner than it is had."""
    if trace.seconds < LEAST or not to.at or not to.send:
        return False
    set_name, values = address_in(trace)
    one = Note(trace.key, set_name, values, to, str(project))
    write_whole(_folder(store) / f"{digest(trace.key, set_name, values)}.note", msgspec.json.encode(one))
    return True


def send_aside(store: Path) -> None:
    """Send what is noted, if anything is, in a process that goes on when this one ends."""
    if next(files_in(_folder(store), ".note"), None) is None or is_held(store, _LOCK):
        return
    with suppress(OSError):
        subprocess.Popen(
            [sys.executable, "-m", "wornpage.team", str(store)], stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL, start_new_session=True, cwd="/",
        )  # fmt: skip


def send(store: Path) -> Sent:
    """Send what is noted and what pages still go by. What cannot be sent now waits, and is let go after a week."""
    runs = size = 0
    troubles: dict[str, str] = {}
    done: set[Path] = set()
    with alone(store, _LOCK):
        while waiting := [one for one in _waiting(store) if one.path not in done and one.note.to.at not in troubles]:
            gone_by = runs_in_use(store)
            for one in waiting:  # more may be noted meanwhile
                if one.note.to.at in troubles:
                    continue
                try:
                    sent = _send(store, one.note, gone_by) if one.age < _OLD else 0
                    size, runs = size + sent, runs + (sent > 0)
                except Away as away:
                    troubles[one.note.to.at] = str(away)
                    continue
                done.add(one.path)
                _drop(one.path)
    left = sum(1 for _ in files_in(_folder(store), ".note"))
    return Sent(runs, size, left, "; ".join(f"{where}: {why}" for where, why in troubles.items()))


def _send(store: Path, one: Note, gone_by: set[str]) -> int:
    """Send one run, what it is found by last; how many bytes, none where it is not wanted there. Raises `Away`."""
    trace = Traces(store / "traces").at(one.code, one.set_name, one.values)
    if trace is None or trace.run not in gone_by:
        return 0
    shelf = open_shelf(one.to, Path(one.project))
    key = own_key()
    if not is_kept():
        raise Away("the key that you sign with cannot be kept, so that nobody could trust what you send")
    place = f"{one.code}/{one.set_name}/{one.values}"
    there = shelf.names(runs_of(one.code))
    if any(f"{one.set_name}/{one.values}.{signer}" in there for signer in {key, *trusted()}):
        return 0
    blobs = Blobs(str(store / "blobs"))
    paths = {address: Path(blobs.path(address)) for address in sorted(trace.addresses)}
    try:
        sizes = {address: path.stat().st_size for address, path in paths.items()}
    except OSError:  # it is no longer whole here, so that nobody would be served
        return 0
    pace = pace_of(store, one.to)
    if pace.seconds(len(sizes), sum(sizes.values())) > trace.seconds:
        return 0
    sent = 0
    for address, path in paths.items():
        if not shelf.has(blob_name(address)):
            sent += sizes[address]
            with pace.measured(sizes[address]):
                shelf.put(blob_name(address), path)
    pace.keep()
    told = json.dumps({"trace": as_kept(trace), "sizes": sizes}, ensure_ascii=False, separators=(",", ":"))
    body = zlib.compress(told.encode("utf-8", "surrogatepass"), 6)
    items = json.dumps([list(read.item) for read in trace.reads], ensure_ascii=False).encode("utf-8", "surrogatepass")
    shelf.put(reads_name(one.code, one.set_name), items)
    shelf.put(run_name(place, key), signed(body, place, own_secret()))
    return sent + len(items) + len(body)


def _folder(store: Path) -> Path:
    return store / "team" / "to-send"


class _Waiting(Struct, frozen=True):
    path: Path
    note: Note
    age: float
    """Seconds."""


def _waiting(store: Path) -> list[_Waiting]:
    return [_read(path) for path in files_in(_folder(store), ".note")]


def _read(path: Path) -> _Waiting:
    """A note; one that is damaged is as old as can be."""
    try:
        return _Waiting(path, msgspec.json.decode(path.read_bytes(), type=Note), time.time() - path.stat().st_mtime)
    except (OSError, msgspec.MsgspecError):
        return _Waiting(path, Note("", "", "", TeamStore(), ""), _OLD)


def _drop(path: Path) -> None:
    with suppress(OSError):
        path.unlink()
