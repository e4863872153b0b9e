"""Where a chunk's output ends up: file descriptors 1 and 2, cut into stretches by a sentinel.

The other end reads both pipes all the time. At each place that must keep its order (a shown value, the end
of a chunk) everything is flushed and the sentinel written to both.
"""

from __future__ import annotations

import ctypes
import os
import sys
from contextlib import suppress
from io import TextIOWrapper

from wornpage.session.python.missing import MustReplay
from wornpage.tree.older import beside


class Streams:
    def __init__(self, sentinel: bytes) -> None:
        self._sentinel = sentinel
        self._count = 0
        self._c = ctypes.CDLL(None)
        # Copies, so that a chunk which closes or replaces descriptor 1 or 2 cannot stop the session.
        self.copies = [os.dup(1), os.dup(2)]
        for stream in (sys.stdout, sys.stderr):
            if isinstance(stream, TextIOWrapper):
                stream.reconfigure(encoding="utf-8", errors="backslashreplace", line_buffering=True)
        self._originals = (sys.stdout, sys.stderr)

    def renew(self) -> None:
        """Take descriptors 1 and 2 as they are now, in a session that was forked; count anew."""
        for old, new in beside(self.copies, (1, 2)):
            os.dup2(new, old)
        self._count = 0

    def mark(self) -> int:
        """Flush everything and end the stretch; returns its number, counted from 1."""
        for stream in {*self._originals, sys.stdout, sys.stderr}:
            with suppress(Exception, MustReplay):
                stream.flush()
        self._flush_c()
        self._count += 1
        for copy in self.copies:
            _write_all(copy, self._sentinel)
        return self._count

    def _flush_c(self) -> None:
        """Flush what C libraries hold back; without one of them loaded there is nothing to flush."""
        with suppress(OSError, AttributeError):
            self._c.fflush(None)


def _write_all(handle: int, data: bytes) -> None:
    view = memoryview(data)
    while view:
        view = view[os.write(handle, view) :]
