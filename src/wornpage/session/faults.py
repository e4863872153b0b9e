"""Failures that the chunk could not report itself: it crashed its session, ran too long, or was broken off."""

from __future__ import annotations

import re
import signal

from wornpage.session.python.crash import OURS
from wornpage.session.results import Failure, Frame, Raised

_FRAME = re.compile(r'File "(chunk:[^"]*)", line (\d+)')
_SIGNALS = {
    signal.SIGSEGV: "a segmentation fault",
    signal.SIGABRT: "an abort in compiled code",
    signal.SIGFPE: "an arithmetic fault in compiled code",
    signal.SIGBUS: "a memory access fault",
    signal.SIGILL: "an illegal instruction",
    signal.SIGKILL: "the system killed it, which happens when memory runs out",
    signal.SIGTERM: "another program ended it",
}


class SessionFault(Exception):
    """A session has failed by itself, and not by what it was asked to run; the traceback stands in a note."""


def crash_failure(label: str, words: str, status: int) -> Failure:
    """The session ended while the chunk ran. `words` is what `faulthandler` left; `status` the exit status.

    Raises `SessionFault` where it was the session's own fault.
    """
    if words.startswith(OURS):
        raise session_fault(words)
    if words.startswith("left "):
        reason = f"the code left with os._exit({words.split()[1]})"
    elif status < 0:
        number = signal.Signals(-status) if -status in set(signal.Signals) else None
        reason = _SIGNALS.get(number, f"signal {-status}") if number else f"signal {-status}"
    else:
        reason = f"it ended with status {status}"
    return _failure("crash", label, f"the session ended while this chunk ran: {reason}", _frames(words))


def session_fault(words: str) -> SessionFault:
    """The session's own fault, of which `words` tell."""
    fault = SessionFault(words.rstrip().rpartition("\n")[2] or "the session ended before it began")
    fault.add_note(words)
    return fault


def timeout_failure(label: str, seconds: float, where: Failure | None) -> Failure:
    """The chunk ran past its timeout."""
    message = f"this chunk ran past its timeout of {seconds:g} s"
    return _failure("timeout", label, message, _frames_of(where))


def interrupt_failure(label: str, where: Failure | None) -> Failure:
    """The user broke off."""
    return _failure("interrupt", label, "broken off while this chunk ran", _frames_of(where))


def _failure(kind: str, label: str, message: str, frames: tuple[Frame, ...]) -> Failure:
    return Failure(kind, (Raised(kind, message, frames or (Frame(f"chunk:{label}", 0, "<module>", ""),)),))


def _frames(words: str) -> tuple[Frame, ...]:
    found = [Frame(name, int(line), "", "") for name, line in _FRAME.findall(words)]
    return tuple(found[::-1])


def _frames_of(where: Failure | None) -> tuple[Frame, ...]:
    return where.last.frames if where and where.chain else ()
