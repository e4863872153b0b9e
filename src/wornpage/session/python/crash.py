"""Last words: which line of which chunk was running when the process died.

The file behind `fault` outlives the process. A fatal signal writes a traceback there through `faulthandler`;
`os._exit` is wrapped so that it leaves its caller's line.
"""

from __future__ import annotations

import faulthandler
import os
import sys
from typing import NoReturn

OURS = "a fault of the session:\n"
"""Where last words begin with this, what follows is a traceback of ours."""

_running = ""
_fault = -1
_session = 0


def install(fault: int) -> None:
    """Write last words to the file descriptor `fault` from now on."""
    global _fault, _session
    _fault, _session = fault, os.getpid()
    faulthandler.enable(fault)
    leave = os._exit

    def leave_with_words(status: int) -> NoReturn:
        if os.getpid() == _session and _running:
            frame = sys._getframe(1)
            while frame.f_back and not frame.f_code.co_filename.startswith("chunk:"):
                frame = frame.f_back
            line = frame.f_lineno if frame.f_code.co_filename.startswith("chunk:") else 0
            os.write(_fault, f'left {status}\n  File "{frame.f_code.co_filename}", line {line}\n'.encode())
        leave(status)

    os._exit = leave_with_words
    _die_with_parent()


def fault() -> int:
    """Where last words are left."""
    return _fault


def move(fault: int, is_child: bool) -> None:
    """Write them to another file, in a session that was forked."""
    global _fault, _session
    earlier, _fault, _session = _fault, fault, os.getpid()
    faulthandler.enable(fault)
    os.close(earlier)
    if is_child:
        _die_with_parent()


def _die_with_parent() -> None:
    """On Linux, end when the process that started the session ends, however it ends."""
    import ctypes
    from contextlib import suppress

    with suppress(OSError, AttributeError):
        ctypes.CDLL(None).prctl(1, 9)  # PR_SET_PDEATHSIG, SIGKILL


def tell_of_ours() -> None:
    """Write down the exception being handled, which no chunk has raised, and end."""
    import traceback

    os.write(_fault, (OURS + traceback.format_exc()).encode("utf-8", "replace"))
    os.kill(os.getpid(), 9)  # nothing of the page's is to run any more


def begin(label: str) -> None:
    """From now on the chunk `label` is running."""
    global _running
    _running = label


def end() -> None:
    """No chunk is running."""
    global _running
    _running = ""
