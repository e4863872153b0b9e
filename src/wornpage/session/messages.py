"""How the two ends of a session talk: a length, a JSON header, and the bytes the header announces.

Shared by both ends, so it imports the standard library alone. Nothing is ever pickled here.
"""

from __future__ import annotations

import struct
from collections.abc import Callable, Sequence
from json import JSONDecoder, JSONEncoder
from typing import Any


class _Encoder(JSONEncoder):
    """Made here and now, with methods of its own: a chunk that patches `json` must not change how its session talks."""

    item_separator, key_separator = ",", ":"
    default, encode, iterencode = JSONEncoder.default, JSONEncoder.encode, JSONEncoder.iterencode


class _Decoder(JSONDecoder):
    """The same for what is read."""

    decode, raw_decode = JSONDecoder.decode, JSONDecoder.raw_decode


_written, _read = _Encoder(ensure_ascii=False).encode, _Decoder().decode
_LENGTH = struct.Struct("<I")

Message = dict[str, Any]


def pack(message: Message, blobs: Sequence[bytes] = ()) -> bytes:
    """One message as bytes; `blobs` follow the header in order."""
    header = {**message, "blobs": [len(blob) for blob in blobs]}
    data = _written(header).encode("utf-8", "surrogatepass")
    return b"".join([_LENGTH.pack(len(data)), data, *blobs])


def read_message(read: Callable[[int], bytes]) -> tuple[Message, list[bytes]] | None:
    """The next message from `read(n)`, which gives exactly n bytes or fewer at the end; None at the end."""
    head = read(_LENGTH.size)
    if len(head) < _LENGTH.size:
        return None
    header = _read(read(_LENGTH.unpack(head)[0]).decode("utf-8", "surrogatepass"))
    return header, [read(size) for size in header.pop("blobs")]


class Inbox:
    """Puts messages together from bytes that arrive in pieces."""

    def __init__(self) -> None:
        self._data = bytearray()

    def feed(self, data: bytes) -> list[tuple[Message, list[bytes]]]:
        """All messages complete with `data`."""
        self._data += data
        found = []
        while (message := self._next()) is not None:
            found.append(message)
        return found

    def _next(self) -> tuple[Message, list[bytes]] | None:
        if len(self._data) < _LENGTH.size:
            return None
        end = _LENGTH.size + _LENGTH.unpack_from(self._data)[0]
        if len(self._data) < end:
            return None
        header = _read(bytes(self._data[_LENGTH.size : end]).decode("utf-8", "surrogatepass"))
        sizes = header.pop("blobs")
        if len(self._data) < end + sum(sizes):
            return None
        blobs = []
        for size in sizes:
            blobs.append(bytes(self._data[end : end + size]))
            end += size
        del self._data[:end]
        return header, blobs
