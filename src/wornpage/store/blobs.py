"""Content-addressed files: bytes in, an address out. A flipped bit is noticed and counts as missing."""

from __future__ import annotations

import os
import warnings
from _thread import get_ident
from contextlib import suppress
from typing import TYPE_CHECKING, Any

from wornpage.store.hashes import address_of, is_at_home

if TYPE_CHECKING:
    from collections.abc import Callable

LARGE = 16_000_000
"""Bytes from which on a blob is written aside."""


def forked() -> int:
    """Fork, whatever threads there are; newer Pythons warn of them, and a page may have made errors of warnings."""
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        return os.fork()


def forked_apart() -> int:
    """Fork a process that is nobody's child, so that no code ever sees one; returns its number, and 0 in it. Raises `OSError`."""
    told, tell = os.pipe()
    try:
        between = forked()
        if between == 0:
            _fork_on(tell)
            return 0
        os.close(tell)
        tell = -1
        number = os.read(told, 20)
        os.waitpid(between, 0)
    finally:
        for handle in (told, tell):
            if handle >= 0:
                os.close(handle)
    if not number:
        raise OSError("there is no room for another process")
    return int(number)


def _fork_on(tell: int) -> None:
    """Fork once more, tell the number of the new process, and leave; only the new one returns."""
    try:
        number = forked()
    except OSError:
        os._exit(1)
    if number:
        os.write(tell, str(number).encode())
        os._exit(0)


class Blobs:
    """A folder of blobs; `None` keeps nothing and has nothing."""

    def __init__(self, folder: str | None, in_background: bool = False) -> None:
        self._in_background = in_background and hasattr(os, "fork")
        self._writing: list[int] = []
        self.folder = folder
        """Where they lie; None for nowhere."""
        self.used: set[str] = set()
        """Addresses put or got since the start."""
        self.outlet: Callable[[str, memoryview], None] | None = None
        """Who stores what is put here, where this process may not write."""

    @property
    def keeps(self) -> bool:
        """Whether anything put here can be had again."""
        return self.folder is not None

    def path(self, address: str) -> str:
        """Where a blob lies."""
        return f"{self.folder}/{address[:2]}/{address}"

    def put(self, data: Any) -> str:
        """Store bytes; returns their address. Raises `OSError` if there is no room or no right to write."""
        data = memoryview(data).cast("B")
        size = data.nbytes
        address = address_of(data, large=size >= LARGE)
        self.used.add(address)
        if self.folder is None:
            return address
        path = self.path(address)
        if os.path.exists(path):
            if self.outlet is None:
                with suppress(OSError):
                    os.utime(path)
            return address
        if self.outlet is not None:
            self.outlet(address, data)
            return address
        os.makedirs(os.path.dirname(path), exist_ok=True)
        if self._in_background and size >= LARGE:
            self._write_aside(path, data)
        else:
            self._write(path, data)
        return address

    def put_as(self, address: str, data: bytes) -> None:
        """Store bytes whose address another process has found. Raises `OSError`."""
        path = self.path(address)
        if self.folder is not None and not os.path.exists(path):
            os.makedirs(os.path.dirname(path), exist_ok=True)
            self._write(path, data)

    def _write(self, path: str, data: Any) -> None:
        part = f"{path}.{os.getpid()}.{get_ident()}.part"
        try:
            with open(part, "wb") as file:
                file.write(data)
            os.replace(part, path)
        except BaseException:
            with suppress(OSError):
                os.unlink(part)
            raise

    def _write_aside(self, path: str, data: object) -> None:
        """Let a process that is nobody's child write, from memory as it is now: nothing is copied, nobody waits."""
        done, mark = os.pipe()
        child = forked()
        if child == 0:
            try:
                if forked() == 0:  # the writer; its parent leaves at once, so that no chunk ever sees a child
                    os.close(done)
                    with suppress(BaseException):
                        self._write(path, data)
            finally:
                os._exit(0)
        os.close(mark)
        os.waitpid(child, 0)
        self._writing.append(done)

    @property
    def is_writing(self) -> bool:
        """Whether something may still be on its way to the disk."""
        return bool(self._writing)

    @property
    def writers(self) -> tuple[int, ...]:
        """Descriptors that come to their end when what is being written is on the disk."""
        return tuple(self._writing)

    def forget_writers(self) -> None:
        """Those that write were begun by the process that this one was forked from, which waits for them."""
        while self._writing:
            os.close(self._writing.pop())

    def settle(self) -> None:
        """Wait until everything is written."""
        while self._writing:
            handle = self._writing.pop()
            while os.read(handle, 1):
                pass
            os.close(handle)

    def get(self, address: str) -> bytes:
        """The bytes at an address. Raises `KeyError` if they are missing or not what they were."""
        try:
            with open(self.path(address), "rb") as file:
                data = file.read()
        except OSError:
            raise KeyError(address) from None
        if not is_at_home(data, address):
            with suppress(OSError):
                os.unlink(self.path(address))
            raise KeyError(address)
        self.used.add(address)
        return data

    def has(self, address: str) -> bool:
        """Whether a blob is there; its content is checked only when it is read."""
        return self.folder is not None and os.path.exists(self.path(address))
