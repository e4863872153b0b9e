"""R's own form of values, written: version 2 of its serialization, in the order of bytes of this machine.

Source: the R Internals manual, "Serialization Formats".
"""

from __future__ import annotations

import struct
from collections.abc import Callable, Sequence

from wornpage.session.r.stream import CHARACTER, INTEGER, STRINGS, SYMBOL, VECTOR

HEAD = b"B\n" + struct.pack("<iii", 2, 0x040202, 0x020300)
NONE = struct.pack("<i", 254)
_ATTRIBUTE = struct.pack("<i", 2 | 1024)
Attributes = dict[str, Callable[[], None]]
"""By name: what writes the value of an attribute."""


class Written:
    """Parts of a stream, in their order."""

    encoding_errors = "surrogatepass"
    """What is done with halves of letters (`str.encode`)."""

    def __init__(self) -> None:
        self.parts: list[bytes] = []
        self._symbols: dict[str, int] = {}

    def stream(self) -> bytes:
        """All that was written, as R reads it."""
        return b"".join([HEAD, *self.parts])

    def nothing(self) -> None:
        """NULL; also what ends attributes."""
        self.parts.append(NONE)

    def vector(
        self, kind: int, count: int, data: bytes, more: Attributes | None = None, is_object: bool = False
    ) -> None:
        """A vector of `count` items that lie in `data` as they lie in memory."""
        flags = kind | _flags(more, is_object)
        if count < 2**31:
            self.parts.append(struct.pack("<ii", flags, count))
        else:
            self.parts.append(struct.pack("<iiiI", flags, -1, count >> 32, count & 0xFFFFFFFF))
        self.parts.append(data)
        self.attributes(more)

    def ints(self, numbers: Sequence[int]) -> None:
        """Whole numbers."""
        self.vector(INTEGER, len(numbers), struct.pack(f"<{len(numbers)}i", *numbers))

    def texts(self, texts: Sequence[str | None], more: Attributes | None = None) -> None:
        """Texts; None is a missing one."""
        self.parts.append(struct.pack("<ii", STRINGS | _flags(more), len(texts)))
        self.parts.extend(map(self.character, texts))
        self.attributes(more)

    def character(self, text: str | None) -> bytes:
        """One text, as an item."""
        if text is None:
            return struct.pack("<ii", CHARACTER, -1)
        data = text.encode("utf-8", self.encoding_errors)
        return struct.pack("<ii", CHARACTER | ((64 if data.isascii() else 8) << 12), len(data)) + data

    def head_of_list(self, count: int, has_more: bool, is_object: bool = False) -> None:
        """What stands before the items of a list, which are written next, and then its attributes."""
        flags = (512 if has_more else 0) | (256 if is_object else 0)
        self.parts.append(struct.pack("<ii", VECTOR | flags, count))

    def attributes(self, told: Attributes | None) -> None:
        """Attributes of what was written last; nothing at all for none."""
        if not told:
            return
        for name, tell in told.items():
            self.parts.append(_ATTRIBUTE)
            if name in self._symbols:
                self.parts.append(struct.pack("<i", self._symbols[name] << 8 | 255))
            else:
                self._symbols[name] = len(self._symbols) + 1
                self.parts += [struct.pack("<i", SYMBOL), self.character(name)]
            tell()
        self.nothing()


def _flags(more: Attributes | None, is_object: bool = False) -> int:
    return (512 if more else 0) | (256 if is_object else 0)
