"""A command that lets its keeper do the work."""

from __future__ import annotations

import os
import sys
from contextlib import suppress
from pathlib import Path

from wornpage.keeper.place import SWITCH, address, folder, is_own, settings_file, wanted

DONE_BY_KEEPERS = frozenset({"press", "run", "status"})
"""Commands that ask nothing of who is at the terminal."""


def done_by_keeper(arguments: list[str], looked: bool) -> int | None:
    """The exit status of a command that a keeper has done; None if there is none, so that it must be done here."""
    if not arguments or arguments[0] not in DONE_BY_KEEPERS or wanted() == "no" or not hasattr(os, "fork"):
        return None
    where = address()
    if not where.exists() or not is_own(folder()):
        return None
    return _asked(where, {**_told(arguments), "looked": looked})


def start_if_wanted(asked: bool = False) -> None:
    """Have a keeper started for the commands to come, if the user wants one, or it is `asked` for and the user does not mind."""
    said = wanted()
    if said not in {"yes", "no", ""}:
        where = SWITCH if os.environ.get(SWITCH) else settings_file()
        print(f"{where}: `warm` is `yes` or `no`, and not {said!r}; it is passed over.", file=sys.stderr)
    if not hasattr(os, "fork") or said == "no" or (said != "yes" and not asked):
        return
    if not address().exists():
        start()


def start() -> None:
    """Start a keeper; it ends at once where there is one already."""
    import subprocess

    with suppress(OSError):
        subprocess.Popen(
            [sys.executable, "-P", "-m", "wornpage.cli.keeper", str(address())], stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL, start_new_session=True, cwd="/",
        )  # fmt: skip


def _asked(where: Path, told: dict[str, object]) -> int | None:
    """What came of asking."""
    import socket

    from wornpage.keeper.talking import is_of_this_user, reach, receive, send

    channel = socket.socket(socket.AF_UNIX, socket.SOCK_STREAM)
    with channel:
        try:
            channel.settimeout(2)
            reach(channel, where)
            if not is_of_this_user(channel):
                return None
            send(channel, told, (0, 1, 2))
            answer, _ = receive(channel)
        except (OSError, ValueError):
            return None
        if answer is None or "pid" not in answer:  # it is out of date, and goes
            return None
        channel.settimeout(None)
        return _waited(channel, answer["pid"])


def _told(arguments: list[str]) -> dict[str, object]:
    """All that the work goes by beside the program itself."""
    import resource

    mask = os.umask(0)
    os.umask(mask)
    limits = {name: resource.getrlimit(getattr(resource, name)) for name in dir(resource) if name.startswith("RLIMIT_")}
    environment = {os.fsencode(name).hex(): os.fsencode(value).hex() for name, value in os.environ.items()}
    return {
        "arguments": [os.fsencode(one).hex() for one in [sys.argv[0], *arguments]], "folder": os.fsencode(Path.cwd()).hex(),
        "package": getattr(sys.modules["__main__"], "__package__", None), "environment": environment, "mask": mask, "limits": limits,
    }  # fmt: skip


def _waited(channel: object, worker: int) -> int:
    """The exit status of the worker; signals for this process are passed on to it."""
    import signal
    import socket

    from wornpage.keeper.talking import receive

    assert isinstance(channel, socket.socket)

    def pass_on(number: int, frame: object) -> None:
        with suppress(OSError):
            os.kill(worker, number)

    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, pass_on)
    while True:
        try:
            answer, _ = receive(channel)
        except (OSError, ValueError):
            answer = None
        if answer is None or "status" not in answer:
            print("worn: the process that did the work has ended; `WORN_WARM=no` goes without", file=sys.stderr)
            return 1
        return int(answer["status"])
