"""Running ahead of one's turn: such a session must leave nothing that others see, and ends before it would.

It was forked to run chunks before those above them have come to their end. What they read is compared afterwards, so reading
is free. What would be done to the world beside its own memory waits until it is the chunk's turn: then another session does
it, in the page's order.
"""

from __future__ import annotations

import os
import signal
import sys
from collections.abc import Iterable
from contextlib import suppress
from typing import TYPE_CHECKING, Any

from wornpage.session.python.effects import take_as_it_is
from wornpage.session.python.sealing import seal

if TYPE_CHECKING:
    from wornpage.session.python.watching import Watcher

_ACTS = frozenset({
    "os.remove", "os.rename", "os.truncate", "os.symlink", "os.link", "os.mkdir", "os.rmdir", "os.chmod", "os.chown",
    "os.utime", "os.setxattr", "os.removexattr", "os.lockf", "fcntl.flock", "fcntl.lockf", "shutil.copyfile", "tempfile.mkdtemp", "tempfile.mkstemp",
    "os.fork", "os.forkpty", "subprocess.Popen", "os.system", "os.posix_spawn", "os.exec", "os.spawn", "os.startfile",
    "os.kill", "os.killpg", "signal.pthread_kill", "socket.connect", "socket.bind", "socket.sendto", "socket.sendmsg",
    "socket.getaddrinfo", "sqlite3.connect", "urllib.Request", "webbrowser.open", "syslog.syslog", "ctypes.dlopen",
    "resource.setrlimit", "resource.prlimit", "os.setpriority",
})  # fmt: skip
"""Events of Python's audit that tell of something others may see, or of code that Python does not hear of."""
_leave = signal.raise_signal
"""Tells of nothing, and cannot be caught: no code of the page goes on."""
_SET_SIGNAL = 10
"""`F_SETSIG` of Linux, which Python has no name for."""
_WRITES = os.O_WRONLY | os.O_RDWR | os.O_CREAT | os.O_TRUNC | os.O_APPEND


def wait_for_turns(watcher: Watcher) -> None:
    """From now on, end this process before a chunk does what others could see: Python tells of most, the system of the rest."""
    sys.dont_write_bytecode = True
    take_as_it_is("sys", "dont_write_bytecode")
    if not seal():
        end()
    sys.addaudithook(_Guard(watcher).heard)
    with suppress(ImportError):
        import _posixsubprocess

        vars(_posixsubprocess)["fork_exec"] = end  # what starts processes by it is not always told of
        take_as_it_is("_posixsubprocess", "fork_exec")


def end_with(channel: int) -> None:
    """Be ended when whoever holds the other end of a socket ends: this process is nobody's child."""
    import fcntl

    fcntl.fcntl(channel, fcntl.F_SETOWN, os.getpid())
    fcntl.fcntl(channel, _SET_SIGNAL, signal.SIGKILL)
    fcntl.fcntl(channel, fcntl.F_SETFL, fcntl.fcntl(channel, fcntl.F_GETFL) | os.O_ASYNC)


def shares_nothing(own: Iterable[int]) -> bool:
    """Whether a fork would share with this process nothing that either can change, beside what is `own` to sessions.

    Open files have one position for both, connections one stream, and mapped files one memory.
    """
    known = {0, 1, 2, *own}
    try:
        for handle in map(int, os.listdir("/proc/self/fd")):
            if handle not in known and not _is_harmless(handle):
                return False
        with open("/proc/self/maps", encoding="utf-8", errors="replace") as maps:
            return not any(line.split(None, 2)[1] == "rw-s" for line in maps)
    except OSError:
        return False


def _is_harmless(handle: int) -> bool:
    try:
        what = os.readlink(f"/proc/self/fd/{handle}")
    except OSError:
        return True  # it was that of the listing
    return what in {"/dev/null", "/dev/urandom", "/dev/random"} or what.startswith("/proc/")


class _Guard:
    def __init__(self, watcher: Watcher) -> None:
        self._watcher = watcher

    def heard(self, event: str, arguments: tuple[Any, ...]) -> None:
        """Called for everything that Python tells of."""
        if event == "open":
            if self._watcher.on and _writes(*arguments) and self._watcher.is_the_authors(arguments[0]):
                end()
        elif event in _ACTS:
            if self._watcher.on:
                end()
        elif (
            event == "mmap.__new__" and self._watcher.on and arguments[0] != -1 and arguments[2] != 1
        ):  # not to read alone
            end()


def _writes(path: object, mode: object, flags: object) -> bool:
    if isinstance(mode, str):
        return not set(mode).isdisjoint("wax+")
    return isinstance(flags, int) and bool(flags & _WRITES)


def end(*_: object) -> None:
    """Be gone at once: nothing more is done, nor can code of the page hinder it."""
    _leave(signal.SIGKILL)
