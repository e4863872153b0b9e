"""The keeper: waits, copies itself for each command, and ends when it is out of date, not needed, or in the way."""

from __future__ import annotations

import gc
import importlib
import os
import select
import signal
import socket
import sys
import time
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

from wornpage.keeper.door import Door
from wornpage.keeper.staying import LOOK, is_wanted_still
from wornpage.keeper.talking import is_of_this_user, receive
from wornpage.keeper.working import work


class Keeper:
    """One for each user, program and surroundings."""

    def __init__(self, address: Path, command: Callable[[bool], None], first: tuple[str, ...] = ()) -> None:
        """`command` does what `sys.argv` says, and is told whether somebody has looked already; `first` is imported at once."""
        self._address, self._command, self._first = address, command, first
        self._asked, self._told = os.pipe()
        self._wishes = b""
        self._used = time.monotonic()
        self._files: dict[str, tuple[int, int]] = {}
        """Files that were imported, with what they were."""

    def run(self) -> None:
        """Serve until it is time to go."""
        if _answers(self._address):
            return
        signal.signal(signal.SIGTERM, lambda number, frame: sys.exit(0))
        self._have(self._first)
        try:
            door = Door(self._address).open()
        except OSError:
            return
        try:
            signal.signal(signal.SIGCHLD, signal.SIG_IGN)  # who has done a command is nobody's worry
            os.set_blocking(self._asked, False)
            while self._serve(door):
                pass
        finally:
            door.close()

    def _serve(self, door: Door) -> bool:
        """One command, or one look round; False when it is time to go."""
        ready = set(select.select([door.handle, self._asked], [], [], LOOK)[0])
        if not ready:
            return door.is_there and is_wanted_still(self._used)
        if self._asked in ready:
            self._learn()
        if door.handle in ready and (channel := door.next(0)) is not None:
            with channel:
                return self._answer(channel)
        return True

    def _answer(self, channel: socket.socket) -> bool:
        self._used = time.monotonic()
        channel.settimeout(2)
        handles: list[int] = []
        try:
            if not is_of_this_user(channel):
                return True
            told, handles = receive(channel, 3)
            if told is None or len(handles) != 3:
                return True
            if self._is_old() or _threads() > 1:
                return False  # whoever asks sees that nobody answers, and does the work
            channel.settimeout(None)
            if os.fork() == 0:
                try:
                    signal.signal(signal.SIGCHLD, signal.SIG_DFL)
                    work(channel, told, handles, self._told, self._command)
                finally:
                    os._exit(1)  # whatever happens, a copy never goes on as the keeper
        except (OSError, ValueError, KeyError):
            return True
        finally:
            for handle in handles:
                with suppress(OSError):
                    os.close(handle)
        return True

    # --- what it has imported -----------------------------------------------------------------

    def _learn(self) -> None:
        """Import what a copy had to import, for the next one."""
        with suppress(BlockingIOError):
            self._wishes += os.read(self._asked, 1_000_000)
        *whole, self._wishes = self._wishes.split(b"\n")
        names = {name.decode() for line in whole for name in line.split(b"\0") if name}
        self._have(tuple(sorted(names - set(sys.modules))))

    def _have(self, names: tuple[str, ...]) -> None:
        for name in names:
            if _may_be_had(name):
                with suppress(Exception):
                    importlib.import_module(name)
        for module in list(sys.modules.values()):
            path = getattr(module, "__file__", None)
            if path and path not in self._files:
                self._files[path] = _looks(path)
        for place in sys.path:
            self._files.setdefault(place, _looks(place))
        gc.collect()
        gc.freeze()  # so that copies share what is here

    def _is_old(self) -> bool:
        """Whether a file that was imported, or a folder of packages, is another now."""
        return any(_looks(path) != held for path, held in self._files.items())


def _may_be_had(name: str) -> bool:
    """Whether importing a module is certain to be the same for every page: it is none of the running program's own kind."""
    return not name.startswith("__") and all(part.isidentifier() for part in name.split("."))


def _looks(path: str) -> tuple[int, int]:
    try:
        found = Path(path).stat()
    except OSError:
        return (0, 0)
    return (found.st_mtime_ns, found.st_size)


def _threads() -> int:
    """How many there are: a copy has one alone, whatever the others held."""
    try:
        return sum(1 for _ in Path("/proc/self/task").iterdir())
    except OSError:
        return 1


def _answers(where: Path) -> bool:
    """Whether somebody is at a socket."""
    with socket.socket(socket.AF_UNIX, socket.SOCK_STREAM) as channel:
        channel.settimeout(1)
        try:
            channel.connect(str(where))
        except OSError:
            return False
        return True
