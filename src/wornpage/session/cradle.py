"""Sessions that have their libraries imported already: forked from one that waits for it, in a process of its own.

A pressing in which code of Python ran asks, when it is over, for a cradle: a session with the libraries that the page had
imported up to the place where its author is at work, and with none of its values. The next pressing that needs a session
further down than all those imports has one forked from it. Above them, or with anything else about it that differs
(variables of the environment, packages, bounds, the folder), it starts one as ever.
"""

from __future__ import annotations

import json
import os
import signal
import socket
import subprocess
import sys
import time
from collections.abc import Sequence
from contextlib import suppress
from hashlib import blake2b
from pathlib import Path

import msgspec
from msgspec import Struct
from msgspec.structs import replace

from wornpage.keeper.door import Door
from wornpage.keeper.place import address, folder, is_own, wanted
from wornpage.keeper.staying import LOOK, is_wanted_still
from wornpage.keeper.talking import is_of_this_user, reach, receive, send
from wornpage.session.environment import session_environment
from wornpage.session.messages import Message
from wornpage.session.piped import Ends
from wornpage.session.process import Forked, ProcessSession, sent
from wornpage.session.python.environments import PythonAt, current, take
from wornpage.session.tasks import CannotFork, Environment, Position

_FLEETING = (
    "_",
    "OLDPWD",
    "PWD",
    "SHLVL",
    "COLUMNS",
    "LINES",
    "WINDOWID",
    "TERM",
    "COLORTERM",
    "TERM_SESSION_ID",
    "SSH_TTY",
)
"""Variables that differ from terminal to terminal, and that no library goes by while it is imported."""
MOST = 4
"""Cradles of one user: pages that somebody is at work on."""
_PATIENCE = 2.0
"""Seconds that a cradle may take to answer."""


class Wish(Struct, frozen=True):
    """What a cradle is to be like."""

    environment: Environment
    python: PythonAt
    position: Position
    """Where the names of libraries stand for them."""
    modules: tuple[str, ...]


def cradle_for(environment: Environment) -> Path:
    """Where the cradle for a page's sessions is asked."""
    python = current()
    kept = {name: value for name, value in session_environment(environment.threads).items() if name not in _FLEETING}
    places = [(place, _moment(place)) for place in python.folders or sys.path if place.endswith("-packages")]
    ours = __file__, _moment(__file__), os.getuid(), python.program, python.identity
    own = repr((ours, _number(environment.folder), sorted(kept.items()), places))
    told = msgspec.json.encode(replace(environment, given={}), enc_hook=str) + own.encode("utf-8", "surrogateescape")
    return folder() / f"{blake2b(told, digest_size=8).hexdigest()}.cradle"


def _moment(path: str) -> int:
    try:
        return Path(path).stat().st_mtime_ns
    except OSError:
        return 0


def _number(folder: Path) -> int:
    """Which folder it is: one made anew at the same place is another."""
    try:
        return folder.stat().st_ino
    except OSError:
        return 0


def warm_session(environment: Environment, imported: set[str]) -> ProcessSession | None:
    """A session of Python forked from a cradle, opened; None where there is none that has only what is `imported` at the place."""
    if wanted() == "no" or not is_own(folder()):
        return None
    where = cradle_for(environment)
    modules = modules_in(where)
    if modules is None or not set(modules) <= imported:
        return None
    with (
        suppress(OSError, ValueError, KeyError, CannotFork),
        socket.socket(socket.AF_UNIX, socket.SOCK_STREAM) as channel,
    ):
        channel.settimeout(_PATIENCE)
        reach(channel, where)
        if not is_of_this_user(channel):
            return None
        told, _ = receive(channel)
        if told is not None and set(told["modules"]) <= imported:
            given = {name: sent(value) for name, value in environment.given.items()}
            return ProcessSession(
                mother=_Distant(channel, bytes.fromhex(told["sentinel"])), given=given, store=environment.store
            )
    return None


def modules_in(where: Path) -> list[str] | None:
    """What the cradle at a place has imported; None where there is none."""
    try:
        found = json.loads(_told_of(where).read_bytes()) if where.exists() else None
    except (OSError, ValueError):
        return None
    return found if isinstance(found, list) else None


def _told_of(where: Path) -> Path:
    """The file that says what a cradle has imported."""
    return where.with_suffix(".modules")


class _Distant:
    """A session in another process, of which one can be born."""

    def __init__(self, channel: socket.socket, sentinel: bytes) -> None:
        self._channel, self.sentinel = channel, sentinel

    def born(self, ends: Ends, given: Message, *, ahead: bool = False) -> Forked:
        """As `ProcessSession` has it. Raises `CannotFork`."""
        fleeting = {name: os.environ.get(name) for name in _FLEETING}
        try:
            send(
                self._channel,
                {"given": given, "fleeting": fleeting},
                tuple(ends.numbers),
            )
            told, _ = receive(self._channel)
        except (OSError, ValueError):
            raise CannotFork from None
        if told is None or not told.get("pid"):
            raise CannotFork
        return Forked(int(told["pid"]))


def wish_for(wish: Wish) -> None:
    """Have a cradle, if the user wants such, and there is none that is as good."""
    is_wanted = wanted() == "yes" or (wanted() != "no" and address().exists())
    if not is_wanted or not wish.modules or not hasattr(os, "fork"):
        return
    known = modules_in(cradle_for(wish.environment))
    if known is not None and set(known) == set(wish.modules):
        return
    _make_room()
    with suppress(OSError):
        process = subprocess.Popen(
            [sys.executable, "-P", "-m", "wornpage.session.cradle"], stdin=subprocess.PIPE, stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL, start_new_session=True, cwd="/",
        )  # fmt: skip
        assert process.stdin is not None
        with process.stdin as inbound:
            inbound.write(
                msgspec.msgpack.encode(replace(wish, environment=replace(wish.environment, given={})), enc_hook=str)
            )


def _make_room() -> None:
    """Have the oldest go where there are as many as there may be: one that is no longer found ends."""
    with suppress(OSError):
        there = sorted(folder().glob("*.cradle"), key=lambda path: path.stat().st_mtime)
        for path in there[: len(there) + 1 - MOST]:
            path.unlink(missing_ok=True)


# --- the other end ----------------------------------------------------------------------------


class _Cradle:
    def __init__(self, wish: Wish) -> None:
        self._wish = wish
        take(wish.python)
        self._address = cradle_for(wish.environment)
        self._session = ProcessSession(wish.environment.threads)

    def run(self) -> None:
        """Serve until it is time to go."""
        signal.signal(signal.SIGTERM, lambda number, frame: sys.exit(1))
        try:
            self._session.open(self._wish.environment)
            self._session.hold(self._wish.position)
            door = Door(self._address)
            try:
                self._serve(door)
            finally:
                if door.is_there:
                    _told_of(self._address).unlink(missing_ok=True)
                door.close()
        finally:
            self._session.close()

    def _serve(self, door: Door) -> None:
        told = _told_of(self._address)
        part = told.with_name(f"{told.name}.{os.getpid()}")
        part.write_text(json.dumps(self._wish.modules))
        part.replace(told)
        door.open()
        used = time.monotonic()
        while self._is_wanted(door, used):
            channel = door.next(LOOK)
            if channel is not None:
                used = time.monotonic()
                with channel:
                    self._answer(channel)

    def _is_wanted(self, door: Door, used: float) -> bool:
        is_new = cradle_for(self._wish.environment) == self._address  # packages and program are as they were
        return is_new and door.is_there and is_wanted_still(used)

    def _answer(self, channel: socket.socket) -> None:
        handles: list[int] = []
        with suppress(OSError, ValueError, KeyError, CannotFork):
            channel.settimeout(_PATIENCE)
            if not is_of_this_user(channel):
                return
            send(channel, {"modules": self._wish.modules, "sentinel": self._session.sentinel.hex()})
            told, handles = receive(channel, 6)
            if told is not None and len(handles) == 6:
                born = self._session.born(Ends(*handles), told["given"], told["fleeting"])
                send(channel, {"pid": born.pid})
        for handle in handles:
            os.close(handle)


def imported_by(modules: Sequence[str]) -> tuple[str, ...]:
    """Of names of modules those that are libraries: the project's own may be another at the next pressing."""
    from wornpage.store.packages import distribution_of, version_of

    found = []
    for module in dict.fromkeys(modules):
        root = module.partition(".")[0]
        if root in sys.stdlib_module_names or version_of(distribution_of(root)) != "absent":
            found.append(module)
    return tuple(found) if not all(map(_comes_with_python, found)) else ()


def _comes_with_python(module: str) -> bool:
    """Whether it is there at once: for such alone a cradle is not worth it."""
    return module.partition(".")[0] in sys.stdlib_module_names


def _decoded(kind: type, value: object) -> object:
    """What the format has no kind for."""
    return Path(str(value)) if kind is Path else value


if __name__ == "__main__":
    _Cradle(msgspec.msgpack.decode(sys.stdin.buffer.read(), type=Wish, dec_hook=_decoded)).run()
