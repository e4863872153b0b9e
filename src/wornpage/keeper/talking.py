"""What goes between a command and its keeper: messages in JSON, each behind its length, and the three streams of the command."""

from __future__ import annotations

import json
import os
import socket
import struct
from pathlib import Path
from typing import Any

_LENGTH = struct.Struct("!I")
MOST = 10_000_000


def send(channel: socket.socket, message: dict[str, Any], handles: tuple[int, ...] = ()) -> None:
    """Send a message, and open files with it. Raises `OSError`."""
    data = json.dumps(message).encode()
    framed = _LENGTH.pack(len(data)) + data
    if handles:
        sent = socket.send_fds(channel, [framed], list(handles))
        framed = framed[sent:]
    channel.sendall(framed)


def receive(channel: socket.socket, handles: int = 0) -> tuple[dict[str, Any] | None, list[int]]:
    """The next message and the files with it; None where the other end has gone. Raises `OSError`, `ValueError`."""
    found: list[int] = []
    first = b""
    if handles:
        first, found, _, _ = socket.recv_fds(channel, _LENGTH.size, handles)
    length = first + _exactly(channel, _LENGTH.size - len(first))
    if len(length) < _LENGTH.size:
        return None, found
    size = _LENGTH.unpack(length)[0]
    if size > MOST:
        raise ValueError("the message is too long")
    data = _exactly(channel, size)
    return (json.loads(data) if len(data) == size else None), found


def _exactly(channel: socket.socket, size: int) -> bytes:
    """So many bytes; fewer where the other end has gone. What comes behind them is another message's."""
    data = b""
    while len(data) < size:
        piece = channel.recv(min(size - len(data), 65_536))
        if not piece:
            break
        data += piece
    return data


def reach(channel: socket.socket, where: Path) -> None:
    """Connect to a socket; one that nobody is at any more is taken away. Raises `OSError`."""
    try:
        channel.connect(str(where))
    except ConnectionRefusedError:
        where.unlink(missing_ok=True)
        raise


def is_of_this_user(channel: socket.socket) -> bool:
    """Whether the other end is a process of the same user."""
    if not hasattr(socket, "SO_PEERCRED"):
        return False
    told = channel.getsockopt(socket.SOL_SOCKET, socket.SO_PEERCRED, struct.calcsize("3i"))
    _, user, _ = struct.unpack("3i", told)
    return bool(user == os.getuid())
