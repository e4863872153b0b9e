"""Pictures as files of a package: vectors with dots beside them, each kept once however often it is shown."""

from __future__ import annotations

import struct
from collections.abc import Iterable

from wornpage.output.raster import as_png
from wornpage.store.hashes import hash128
from wornpage.tree.nodes import Picture

_SHOWN_AS_THEY_ARE = {"png", "jpeg", "gif"}
_UNKNOWN = (0, 0)
VECTORS = "{96DAC541-7B7A-43D3-8B79-37D633B846F1}"
"""What tells programs that know vectors where they are."""


class Media:
    """The files of all pictures that are given."""

    def __init__(self, pictures: Iterable[Picture]) -> None:
        drawn = {_key(one): one for one in pictures if one.format not in _SHOWN_AS_THEY_ARE}
        made = as_png((one.format, one.data, one.width or 14.0) for one in drawn.values())
        self._dots = dict(zip(drawn, made, strict=True))
        self.files: dict[str, bytes] = {}
        """By their names within the package's main folder."""

    def can_show(self, picture: Picture) -> bool:
        """Whether there is anything to show: a damaged drawing has none."""
        if picture.format in _SHOWN_AS_THEY_ARE:
            return dots_of(picture.data) != _UNKNOWN
        return bool(self._dots.get(_key(picture)))

    def dots(self, picture: Picture) -> str:
        """The name of a file of dots."""
        if picture.format in _SHOWN_AS_THEY_ARE:
            return self._kept(picture.data, picture.format)
        return self._kept(self._dots[_key(picture)], "png")

    def vectors(self, picture: Picture) -> str:
        """The name of a file of vectors; empty where there are none."""
        return self._kept(picture.data, "svg") if picture.format == "svg" else ""

    def size(self, picture: Picture, room: float) -> tuple[float, float]:
        """Centimetres; what is not said follows from the picture's own proportions, and from the `room` across."""
        width, height = picture.width, picture.height
        if width and height:
            return width, height
        data = picture.data if picture.format in _SHOWN_AS_THEY_ARE else self._dots.get(_key(picture), b"")
        across, up = dots_of(data)
        width = width or min(room, across / 96 * 2.54)
        return width, width * up / across

    def _kept(self, data: bytes, end: str) -> str:
        name = f"media/{hash128(data).hexdigest()[:20]}.{end}"
        self.files[name] = data
        return name


def _key(picture: Picture) -> tuple[str, float, bytes]:
    return picture.format, picture.width, picture.data


def dots_of(data: bytes) -> tuple[int, int]:
    """Width and height of an image in dots, from its head; `_UNKNOWN` where they cannot be told."""
    try:
        if data[:8] == b"\x89PNG\r\n\x1a\n":
            across, up = struct.unpack(">II", data[16:24])
        elif data[:3] == b"GIF":
            across, up = struct.unpack("<HH", data[6:10])
        else:
            across, up = _dots_of_jpeg(data)
    except struct.error:
        return _UNKNOWN
    return (across, up) if across and up else _UNKNOWN


def _dots_of_jpeg(data: bytes) -> tuple[int, int]:
    place = 2
    while place + 9 < len(data) and data[place] == 0xFF:
        marker, length = data[place + 1], int.from_bytes(data[place + 2 : place + 4], "big")
        if 0xC0 <= marker <= 0xCF and marker not in {0xC4, 0xC8, 0xCC}:
            up, across = struct.unpack(">HH", data[place + 5 : place + 9])
            return across, up
        place += 2 + length
    return _UNKNOWN
