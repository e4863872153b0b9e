"""A copy of the keeper that does one command, in the surroundings of whoever asked for it."""

from __future__ import annotations

import gc
import os
import signal
import socket
import sys
import threading
from collections.abc import Callable
from contextlib import suppress
from typing import Any

from wornpage.keeper.talking import send

_REPORT = 60_000
"""Bytes that are told of what was imported."""


def work(
    channel: socket.socket, told: dict[str, Any], handles: list[int], report: int, command: Callable[[bool], None]
) -> None:
    """Do a command and end this process. What had to be imported for it is told to `report`."""
    before = set(sys.modules)
    status = 1
    try:
        send(channel, {"pid": os.getpid()})
        _settle(told, handles)
        _end_with(channel)
        status = _status_of(command, bool(told["looked"]))
        _await_threads()
    finally:
        signal.signal(signal.SIGTERM, signal.SIG_IGN)  # whoever asked goes as soon as the status is there
        with suppress(Exception):
            sys.stdout.flush()
            sys.stderr.flush()
        with suppress(OSError):
            send(channel, {"status": status})
        with suppress(OSError):
            os.write(report, "\0".join(sorted(set(sys.modules) - before)).encode()[:_REPORT] + b"\n")
        os._exit(status)


def _status_of(command: Callable[[bool], None], looked: bool) -> int:
    try:
        command(looked)
    except SystemExit as left:
        code = left.code
        if isinstance(code, str):
            print(code, file=sys.stderr)
        return code if isinstance(code, int) else int(code is not None)
    except KeyboardInterrupt:
        return 1
    return 0


def _await_threads() -> None:
    """Wait for what goes on aside, such as the closing of sessions, as Python does when it ends."""
    for thread in threading.enumerate():
        if thread is not threading.main_thread() and not thread.daemon:
            thread.join()


def _settle(told: dict[str, Any], handles: list[int]) -> None:
    """Stand where the command was given: its streams, folder, environment, rights and bounds."""
    for number, handle in enumerate(handles):
        os.dup2(handle, number)
        os.close(handle)
    os.environ.clear()
    for name, value in told["environment"].items():
        os.environ[os.fsdecode(bytes.fromhex(name))] = os.fsdecode(bytes.fromhex(value))
    os.chdir(bytes.fromhex(told["folder"]))
    os.umask(told["mask"])
    import resource

    for name, (soft, hard) in told["limits"].items():
        with suppress(OSError, ValueError):
            resource.setrlimit(getattr(resource, name), (soft, hard))
    signal.signal(signal.SIGINT, signal.default_int_handler)
    for number in (signal.SIGTERM, signal.SIGHUP, signal.SIGCHLD):
        signal.signal(number, signal.SIG_DFL)
    sys.modules["__main__"].__package__ = told["package"]  # by which help calls the program
    sys.argv = [os.fsdecode(bytes.fromhex(one)) for one in told["arguments"]]
    for stream, number, mode in (("stdin", 0, "r"), ("stdout", 1, "w"), ("stderr", 2, "w")):
        setattr(sys, stream, _opened(number, mode, getattr(sys, f"__{stream}__")))
        setattr(sys, f"__{stream}__", getattr(sys, stream))
    gc.enable()


def _opened(number: int, mode: str, before: Any) -> Any:
    """A stream as Python opens it when it starts."""
    errors = "backslashreplace" if number == 2 else getattr(before, "errors", "strict")
    encoding = getattr(before, "encoding", "utf-8")
    is_terminal = os.isatty(number)
    return open(
        number, mode, encoding=encoding, errors=errors, closefd=False, buffering=1 if is_terminal or number == 2 else -1
    )  # fmt: skip


def _end_with(channel: socket.socket) -> None:
    """Whoever asked may be ended by force: then this ends, too, as it would have itself."""

    def watch() -> None:
        with suppress(OSError):
            channel.recv(1)
        os.kill(os.getpid(), signal.SIGTERM)

    threading.Thread(target=watch, daemon=True, name="watching who asked").start()
