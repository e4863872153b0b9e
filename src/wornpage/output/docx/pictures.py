"""Pictures: vectors with dots beside them, at their real size, with words for those who cannot see them."""

from __future__ import annotations

from collections.abc import Iterable

from wornpage.output.ooxml.media import VECTORS, Media
from wornpage.output.ooxml.package import Relations
from wornpage.output.ooxml.xml import emus, escaped
from wornpage.tree.nodes import Picture

_LOCKS = '<wp:cNvGraphicFramePr><a:graphicFrameLocks noChangeAspect="1"/></wp:cNvGraphicFramePr>'
_KIND = "http://schemas.openxmlformats.org/drawingml/2006/picture"


class Pictures(Media):
    """The pictures of a document."""

    def __init__(self, pictures: Iterable[Picture], first: int) -> None:
        super().__init__(pictures)
        self._count, self._first = 0, first

    def drawing(self, picture: Picture, relations: Relations, room: float, tallest: float) -> str:
        """A run that shows `picture`, no wider and no higher than there is room for in centimetres."""
        self._count += 1
        width, height = _fitted(*self.size(picture, room), room, tallest)
        across, up = emus(width), emus(height)
        name = f"Picture {self._count}"
        dots = relations.to("image", self.dots(picture))
        vectors = ""
        if file := self.vectors(picture):
            own = relations.to("image", file)
            vectors = f'<a:extLst><a:ext uri="{VECTORS}"><asvg:svgBlip r:embed="{own}"/></a:ext></a:extLst>'
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


def _fitted(width: float, height: float, room: float, tallest: float) -> tuple[float, float]:
    factor = min(1.0, room / width if width else 1.0, tallest / height if height else 1.0)
    return width * factor, height * factor
