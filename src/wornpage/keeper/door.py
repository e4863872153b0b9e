"""The socket that a helper is asked at: in a folder that is the user's alone, and as long as no other has taken its place."""

from __future__ import annotations

import os
import select
import socket
from pathlib import Path
from typing import Self

from wornpage.keeper.place import folder, is_own


class Door:
    """Where others come in. It is there from the moment at which all is ready."""

    def __init__(self, address: Path) -> None:
        """Raises `OSError` where there can be none, or where it would not be safe."""
        place = folder()
        place.mkdir(mode=0o700, parents=True, exist_ok=True)
        place.chmod(0o700)
        if not is_own(place):
            raise PermissionError(f"{place} is not the user's alone")
        self.address = address
        self._listener = socket.socket(socket.AF_UNIX, socket.SOCK_STREAM)
        self._part = address.with_name(f"{address.name}.{os.getpid()}")
        self._listener.bind(str(self._part))
        self._part.chmod(0o600)
        self._listener.listen(16)
        self._number = self._part.stat().st_ino

    def open(self) -> Self:
        """Be at the address from now on; one that was there before sees that, and goes."""
        self._part.replace(self.address)
        return self

    @property
    def handle(self) -> int:
        """To be waited for."""
        return self._listener.fileno()

    @property
    def is_there(self) -> bool:
        """Whether others still find this one."""
        try:
            return self.address.stat().st_ino == self._number
        except OSError:
            return False

    def next(self, seconds: float) -> socket.socket | None:
        """Whoever comes in within so many seconds."""
        ready = select.select([self._listener.fileno()], [], [], seconds)[0]
        return self._listener.accept()[0] if ready else None

    def close(self) -> None:
        """Be found no longer."""
        if self.is_there:
            self.address.unlink(missing_ok=True)
        self._listener.close()
