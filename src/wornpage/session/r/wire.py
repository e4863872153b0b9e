"""How the two ends of an R session talk: a length, a list in R's serialization, and the bytes that it announces."""

from __future__ import annotations

import struct
from typing import Any, cast

from wornpage.session.messages import Message
from wornpage.session.r.plain import packed, plain
from wornpage.session.r.stream import read

_LENGTH = struct.Struct("<i")

pack = packed
"""A message to the far end: R reads one object after the other."""


class Inbox:
    """Puts messages of the far end together from bytes that arrive in pieces; what follows large ones is never copied twice."""

    def __init__(self) -> None:
        self._data = bytearray()
        self._head: Message | None = None
        self._wanted = _LENGTH.size

    def feed(self, data: bytes) -> list[tuple[Message, list[bytes]]]:
        """All messages complete with `data`."""
        self._data += data
        found = []
        while len(self._data) >= self._wanted:
            message = self._next()
            if message is not None:
                found.append(message)
        return found

    def _next(self) -> tuple[Message, list[bytes]] | None:
        """Go on as far as there are bytes for; a message where one has become whole."""
        if self._head is None:
            end = _LENGTH.size + int(_LENGTH.unpack_from(self._data)[0])
            if len(self._data) < end:
                self._wanted = end
                return None
            self._head = cast("dict[str, Any]", plain(read(bytes(self._data[_LENGTH.size : end]))))
            del self._data[:end]
        sizes = [int(size) for size in self._head.get("sizes") or ()]
        if len(self._data) < sum(sizes):
            self._wanted = sum(sizes)
            return None
        blobs, at = [], 0
        for size in sizes:
            blobs.append(bytes(self._data[at : at + size]))
            at += size
        del self._data[:at]
        message, self._head, self._wanted = self._head, None, _LENGTH.size
        return message, blobs
