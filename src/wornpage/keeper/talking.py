"""What goes between a command and its keeper: lines of JSON, and the three streams of the command."""

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
    """A message and the files with it; None where the other end has gone. Raises `OSError`, `ValueError`."""
    found: list[int] = []
    data = b""
    while len(data) < _LENGTH.size or len(data) < _LENGTH.size + _LENGTH.unpack(data[:4])[0]:
        if len(data) >= _LENGTH.size and _LENGTH.unpack(data[:4])[0] > MOST:
            raise ValueError("the message is too long")
        if handles and not found:
            piece, found, _, _ = socket.recv_fds(channel, 65_536, handles)
        else:
            piece = channel.recv(65_536)
        if not piece:
            return None, found
        data += piece
    return json.loads(data[_LENGTH.size :]), found


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
