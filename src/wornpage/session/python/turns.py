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

from wornpage.session.python.effects import take_as_it_is
from wornpage.session.python.sealing import seal

_leave = signal.raise_signal
"""As it is before code of the page could change it."""
_SET_SIGNAL = 10
"""`F_SETSIG` of Linux, which Python has no name for."""


def wait_for_turns() -> None:
    """From now on, the system ends this process before anything is done that others could see."""
    sys.dont_write_bytecode = True  # what is imported first here is compiled again elsewhere
    take_as_it_is("sys", "dont_write_bytecode")
    if not seal():
        end()


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


def end(*_: object) -> None:
    """Be gone at once: nothing more is done, nor can code of the page hinder it."""
    _leave(signal.SIGKILL)
