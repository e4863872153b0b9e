"""Pictures on a sheet, as drawings with vectors where there are any."""

from __future__ import annotations

from collections.abc import Sequence

from wornpage.output.ooxml.media import Media
from wornpage.output.ooxml.package import Relations, relations_of, relations_part
from wornpage.output.ooxml.xml import HEAD, A, R, emus, escaped
from wornpage.tree.nodes import Picture

_PART = "xl/drawings/drawing1.xml"
_SHEETS = "http://schemas.openxmlformats.org/drawingml/2006/spreadsheetDrawing"
_ROW = 0.529
"""Centimetres of a row of 15 points."""
_USUAL = (14.0, 9.0)


class Drawing:
    """The pictures of one sheet."""

    def __init__(self, pictures: Sequence[Picture]) -> None:
        self._media = Media(pictures)
        self._leads = Relations("rId")
        self._anchors: list[str] = []

    def put(self, picture: Picture, row: int) -> int:
        """Put a picture below a row; how many rows it covers."""
        if not self._media.can_show(picture):
            return 0
        width = picture.width or _USUAL[0]
        height = picture.height or width * _USUAL[1] / _USUAL[0]
        at = len(self._anchors) + 1
        lead = self._leads.to("image", f"../{self._media.dots(picture)}")
        self._anchors.append(
            f"<xdr:oneCellAnchor><xdr:from><xdr:col>0</xdr:col><xdr:colOff>0</xdr:colOff><xdr:row>{row}</xdr:row><xdr:rowOff>0</xdr:rowOff></xdr:from>"
            f'<xdr:ext cx="{emus(width)}" cy="{emus(height)}"/><xdr:pic><xdr:nvPicPr><xdr:cNvPr id="{at}" name="Picture {at}" descr="{escaped(picture.alt)}"/>'
            f'<xdr:cNvPicPr/></xdr:nvPicPr><xdr:blipFill><a:blip r:embed="{lead}"/><a:stretch><a:fillRect/></a:stretch></xdr:blipFill>'
            f'<xdr:spPr><a:xfrm><a:off x="0" y="0"/><a:ext cx="{emus(width)}" cy="{emus(height)}"/></a:xfrm><a:prstGeom prst="rect"><a:avLst/></a:prstGeom></xdr:spPr>'
            "</xdr:pic><xdr:clientData/></xdr:oneCellAnchor>"
        )
        return int(height / _ROW) + 1

    def parts(self) -> dict[str, bytes | str]:
        """The drawing, what it leads to, and the files."""
        whole = f'{HEAD}<xdr:wsDr xmlns:xdr="{_SHEETS}" xmlns:a="{A}" xmlns:r="{R}">{"".join(self._anchors)}</xdr:wsDr>'
        files = {f"xl/{name}": data for name, data in self._media.files.items()}
        return {_PART: whole, relations_of(_PART): relations_part(self._leads.xml()), **files}
