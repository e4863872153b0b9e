"""Becoming two sessions: when that is safe, and what the new one must have of its own."""

from __future__ import annotations

import os
import signal
import socket
import weakref
from contextlib import suppress
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from wornpage.session.python.streams import Streams

Ends = list[int]
"""Descriptors of the new session: asked over, tells over, last words, standard output, standard error, and that over which it may be forked itself."""


def receive(number: int) -> Ends:
    """The ends that the near end has handed over."""
    with socket.socket(fileno=os.dup(number)) as channel:
        _, ends, _, _ = socket.recv_fds(channel, 16, 6)
    return list(ends)


def close(ends: Ends) -> None:
    """Leave the ends to the new session."""
    for end in ends:
        os.close(end)


def forget_ended() -> None:
    """Let go of forked sessions that have ended."""
    with suppress(ChildProcessError):
        while os.waitpid(-1, os.WNOHANG)[0]:
            pass


def is_safe() -> bool:
    """Whether every thread of this process stands forking: those of OpenBLAS, and of jemalloc, which begin anew by themselves.

    object other library's threads would be missing in the new session, and whoever waits for them would wait for ever.
    """
    try:
        threads = [_name_of(task) for task in os.listdir("/proc/self/task")]
        with open("/proc/self/maps", encoding="utf-8", errors="replace") as maps:
            libraries = {line.split()[-1] for line in maps if "openblas" in line}
    except OSError:
        return False
    limit = os.environ.get("OPENBLAS_NUM_THREADS", "")
    each = int(limit) if limit.isdecimal() else len(os.sched_getaffinity(0))
    others = [name for name in threads if not name.startswith("jemalloc")]
    return len(others) <= 1 + (each - 1) * len(libraries)


def _name_of(task: str) -> str:
    with open(f"/proc/self/task/{task}/comm", encoding="utf-8", errors="replace") as name:
        return name.read()


def leave_the_end_to_the_mother() -> None:
    """What chunks above have set up to be done when the process ends is done once, where they ran: a folder for a while is taken away by it."""
    import atexit

    atexit._clear()
    for one in list(getattr(weakref.finalize, "_registry", ())):
        one.atexit = False


def settle_in(ends: Ends, streams: Streams, is_child: bool) -> tuple[int, int, int]:
    """Take the ends as one's own, in the new session; returns those to be asked, to tell, and to be forked over."""
    from wornpage.session.python import crash

    inbound, outbound, fault, out, err, channel = ends
    with suppress(OSError):
        os.setsid()
    os.dup2(out, 1)
    os.dup2(err, 2)
    os.close(out)
    os.close(err)
    streams.renew()
    for end in (inbound, outbound, fault, channel):
        os.set_inheritable(end, False)
    crash.move(fault, is_child)
    signal.signal(signal.SIGINT, signal.default_int_handler)
    return inbound, outbound, channel
