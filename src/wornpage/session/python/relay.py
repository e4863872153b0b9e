"""What processes see that a chunk has forked off: they tell the session, which would know nothing of it otherwise.

They have the session's own watching in them, since they are copies of it; but what they note down stays with them. So they write it
into a file without a name that was open when they came to be, each look as soon as it is taken: they may be ended at any moment.
"""

from __future__ import annotations

import os
from collections.abc import Iterator


class Relay:
    """The file, as the session and its forked processes have it."""

    def __init__(self) -> None:
        self.is_forked = False
        """Whether this is one of the forked processes."""
        self._file = -1
        self._taken = 0

    def make_ready(self) -> None:
        """A process is about to be forked off."""
        if self._file < 0:
            import tempfile

            with tempfile.TemporaryFile("a+b", buffering=0) as made:
                self._file = os.dup(made.fileno())

    def tell(self, kind: str, what: str) -> bool:
        """In a forked process: tell the session of a look of some kind. Returns whether this is one."""
        if self.is_forked and self._file >= 0:
            os.write(self._file, b"\0".join((kind.encode(), os.fsencode(what), b"")))
        return self.is_forked

    def take(self) -> Iterator[tuple[str, str]]:
        """In the session: what has been told since it was last asked for."""
        if self._file < 0:
            return
        data = os.pread(self._file, os.fstat(self._file).st_size - self._taken, self._taken)
        whole = data[: data.rfind(b"\0") + 1]
        self._taken += len(whole)
        parts = iter(whole.split(b"\0")[:-1])
        for kind in parts:
            yield kind.decode(), os.fsdecode(next(parts))
