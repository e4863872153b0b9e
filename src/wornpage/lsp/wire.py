"""The bytes between editor and server: messages found again after a wrong length, and an answer to each that has an id.

Source: the Language Server Protocol 3.17, base protocol.
"""

from __future__ import annotations

import json
import os
import re
from collections.abc import Callable
from threading import Lock

_HEAD = b"Content-Length:"
_NEXT = re.compile(rb"""Content-Length:[^\r\n"'{}]*\r\n""")
"""The head of a further message: a page that writes of such heads has its ends of lines escaped, within quotes."""
_MOST = 256_000_000
"""Bytes of one message; a longer one is taken for a wrong length."""
_INVALID_REQUEST, _INVALID_PARAMS, _PARSE_ERROR = -32600, -32602, -32700


class Outgoing:
    """Standard output for two writers: each message whole."""

    def __init__(self, write: Callable[[bytes], object]) -> None:
        self._write, self._lock = write, Lock()

    def write(self, data: bytes) -> int:
        """Write one or more whole messages."""
        with self._lock:
            self._write(data)
        return len(data)

    def flush(self) -> None:
        """Nothing is held back."""

    def close(self) -> None:
        """Nothing to do: the stream is the process's own."""


class Incoming:
    """Standard input as the server reads it: sound messages only. What cannot be understood is answered here."""

    def __init__(self, handle: int, out: Outgoing, understand: Callable[[dict[str, object]], object]) -> None:
        self._handle, self._out, self._understand = handle, out, understand
        self._raw = b""
        self._ready = b""

    def readline(self) -> bytes:
        """The next line of a header; empty at the end."""
        while b"\n" not in self._ready and self._next():
            pass
        line, end, self._ready = self._ready.partition(b"\n")
        return line + end

    def read(self, count: int) -> bytes:
        """`count` bytes of a message."""
        data, self._ready = self._ready[:count], self._ready[count:]
        return data

    def _next(self) -> bool:
        """Have one more message ready; False at the end."""
        while True:
            message = self._cut()
            if message is not None:
                if self._is_understood(message):
                    body = json.dumps(message).encode()
                    self._ready += b"Content-Length: %d\r\n\r\n" % len(body) + body
                    return True
                continue
            data = os.read(self._handle, 1 << 16)
            if not data:
                return False
            self._raw += data

    def _cut(self) -> dict[str, object] | None:
        """The first message of what has come; None if it has not come whole. What is none is passed over."""
        while True:
            start = self._raw.find(_HEAD)
            if start < 0:
                self._raw = self._raw[-len(_HEAD) :]
                return None
            head, gap, rest = self._raw[start:].partition(b"\r\n\r\n")
            if not gap:
                return None
            length = head[len(_HEAD) :].split(b"\r\n")[0].strip()
            count = int(length) if length.isdigit() and len(length) < 12 else 0
            if count <= _MOST and len(rest) >= count and (message := _sound(rest[:count])) is not None:
                self._raw = rest[count:]
                return message
            next_head = _NEXT.search(rest)
            if next_head is None:
                if 0 < count <= _MOST and len(rest) < count:
                    return None  # still on its way, unless the length is wrong: the next message will show it
                self._raw = rest
                self._complain(None, _PARSE_ERROR, "this message is no JSON")
                continue
            message = _sound(rest[: next_head.start()])
            self._raw = rest[next_head.start() :]
            if message is not None:
                return message
            self._complain(None, _PARSE_ERROR, "this message is no JSON, or its length is wrong")

    def _is_understood(self, message: dict[str, object]) -> bool:
        if "method" not in message:
            return "id" in message  # the editor's answer to something the server has asked
        try:
            self._understand(message)
        except Exception as error:
            if message.get("id") is not None:
                said = str(error).splitlines()[0] if str(error) else type(error).__name__
                self._complain(message["id"], _INVALID_PARAMS, f"{message['method']} is not asked like this: {said}")
            return False
        return True

    def _complain(self, number: object, code: int, what: str) -> None:
        answer = {"jsonrpc": "2.0", "id": number, "error": {"code": code, "message": what}}
        body = json.dumps(answer).encode()
        self._out.write(b"Content-Length: %d\r\n\r\n" % len(body) + body)


def _sound(body: bytes) -> dict[str, object] | None:
    """A message, if these bytes are one."""
    try:
        message = json.loads(body.strip())
    except (ValueError, RecursionError):
        return None
    return message if isinstance(message, dict) else None
