"""Pictures: vectors with dots beside them, at their real size, with words for those who cannot see them."""

from __future__ import annotations

import struct
from collections.abc import Iterable

from wornpage.output.docx.package import Relations
from wornpage.output.docx.xml import emus, escaped
from wornpage.output.raster import as_png
from wornpage.store.hashes import hash128
from wornpage.tree.nodes import Picture

_SHOWN_AS_THEY_ARE = {"png", "jpeg", "gif"}
_LOCKS = '<wp:cNvGraphicFramePr><a:graphicFrameLocks noChangeAspect="1"/></wp:cNvGraphicFramePr>'
_KIND = "http://schemas.openxmlformats.org/drawingml/2006/picture"


class Pictures:
    """The pictures of a document, each kept once however often it is shown."""

    def __init__(self, pictures: Iterable[Picture], first: int) -> None:
        drawn = {}
        for one in pictures:
            if one.format not in _SHOWN_AS_THEY_ARE:
                drawn[_key(one)] = one
        made = as_png((one.format, one.data, one.width or 14.0) for one in drawn.values())
        self._dots = dict(zip(drawn, made, strict=True))
        self.files: dict[str, bytes] = {}
        """By their names in the package's folder `word`."""
        self._count, self._first = 0, first

    def can_show(self, picture: Picture) -> bool:
        """Whether there is anything to show: a damaged drawing has none."""
        if picture.format in _SHOWN_AS_THEY_ARE:
            return _dots_of(picture.data) != _UNKNOWN
        return bool(self._dots.get(_key(picture)))

    def drawing(self, picture: Picture, relations: Relations, room: float, tallest: float) -> str:
        """A run that shows `picture`, no wider and no higher than there is room for in centimetres."""
        self._count += 1
        width, height = _fitted(*self._size(picture, room), room, tallest)
        across, up = emus(width), emus(height)
        name = f"Picture {self._count}"
        dots = relations.to("image", self._file(picture))
        vectors = ""
        if picture.format == "svg":
            own = relations.to("image", self._kept(picture.data, "svg"))
            vectors = (
                '<a:extLst><a:ext uri="{96DAC541-7B7A-43D3-8B79-37D633B846F1}">'
                f'<asvg:svgBlip r:embed="{own}"/></a:ext></a:extLst>'
            )
        words = escaped(picture.alt or name)
        shape = f'<a:xfrm><a:off x="0" y="0"/><a:ext cx="{across}" cy="{up}"/></a:xfrm><a:prstGeom prst="rect"><a:avLst/></a:prstGeom>'
        about = (
            f'<pic:nvPicPr><pic:cNvPr id="{self._count}" name="{name}" descr="{words}"/><pic:cNvPicPr/></pic:nvPicPr>'
        )
        filled = f'<pic:blipFill><a:blip r:embed="{dots}">{vectors}</a:blip><a:stretch><a:fillRect/></a:stretch></pic:blipFill>'
        return (
            '<w:r><w:drawing><wp:inline distT="0" distB="0" distL="0" distR="0">'
            f'<wp:extent cx="{across}" cy="{up}"/><wp:docPr id="{self._first + self._count}" name="{name}" descr="{words}"/>{_LOCKS}'
            f'<a:graphic><a:graphicData uri="{_KIND}"><pic:pic>{about}{filled}<pic:spPr>{shape}</pic:spPr></pic:pic>'
            "</a:graphicData></a:graphic></wp:inline></w:drawing></w:r>"
        )

    def _file(self, picture: Picture) -> str:
        """The name of the file of dots."""
        if picture.format in _SHOWN_AS_THEY_ARE:
            return self._kept(picture.data, picture.format)
        return self._kept(self._dots[_key(picture)], "png")

    def _kept(self, data: bytes, end: str) -> str:
        name = f"media/{hash128(data).hexdigest()[:20]}.{end}"
        self.files[name] = data
        return name

    def _size(self, picture: Picture, room: float) -> tuple[float, float]:
        """Centimetres; what is not said follows from the picture's own proportions."""
        width, height = picture.width, picture.height
        if width and height:
            return width, height
        data = picture.data if picture.format in _SHOWN_AS_THEY_ARE else self._dots.get(_key(picture), b"")
        across, up = _dots_of(data)
        width = width or min(room, across / 96 * 2.54)
        return width, width * up / across


def _key(picture: Picture) -> tuple[str, float, bytes]:
    return picture.format, picture.width, picture.data


def _fitted(width: float, height: float, room: float, tallest: float) -> tuple[float, float]:
    factor = min(1.0, room / width if width else 1.0, tallest / height if height else 1.0)
    return width * factor, height * factor


_UNKNOWN = (0, 0)


def _dots_of(data: bytes) -> tuple[int, int]:
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
