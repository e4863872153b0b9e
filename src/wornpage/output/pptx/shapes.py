"""The shapes of one slide: text in placeholders and in boxes, rectangles, pictures; each knows the step that it comes with."""

from __future__ import annotations

from wornpage.output.deck.measuring import ratio_of
from wornpage.output.deck.model import Shape
from wornpage.output.ooxml.media import VECTORS, Media
from wornpage.output.ooxml.package import Relations
from wornpage.output.ooxml.xml import escaped
from wornpage.output.pptx.drawingml import Box, fill, text_body
from wornpage.output.pptx.template import Holder
from wornpage.output.pptx.text import Paragraph
from wornpage.output.pptx.timing import Target
from wornpage.tree import nodes as n

_IN_WORDS = "a14 a16"
"""What a program must know that shows formulas among words."""
_SAYS_NOTHING = (
    '<a:extLst><a:ext uri="{C183D7F6-B498-43B3-948B-1728B52AA6E4}"><adec:decorative '
    'xmlns:adec="http://schemas.microsoft.com/office/drawing/2017/decorative" val="1"/></a:ext></a:extLst>'
)


class Canvas:
    """What stands on a slide so far."""

    def __init__(self, shape: Shape, scale: float, media: Media, step: int | None) -> None:
        self.shape, self.scale, self.media, self.step = shape, scale, media, step
        self.relations = Relations("rIdW")
        self.shapes: list[str] = []
        self.number = 1
        """The last number that a shape has."""
        self.coming: dict[int, list[Target]] = {}
        self.under = 0
        """The step that all of it comes with, which is being written."""

    def next(self) -> int:
        self.number += 1
        return self.number

    def comes(self, step: int, target: Target) -> None:
        if self.step is None:
            self.coming.setdefault(step, []).append(target)

    def hold(self, holder: Holder | None, name: str, paragraphs: list[Paragraph], box: Box | None = None) -> None:
        """Text in a placeholder; at a place of its own where `box` says so."""
        if holder is None:
            shape = self.shape
            self.box(name, box or Box(shape.side, shape.top, shape.inner, shape.title * 1.3), paragraphs)
            return
        kind = "" if holder.kind == "obj" else f' type="{holder.kind}"'
        index = "" if holder.number == "0" else f' idx="{holder.number}"'
        place = box.xml() if box is not None else ""
        shrunk = (
            f'<a:normAutofit fontScale="{round(self.scale * 100_000)}"/>' if self.scale < 1 and holder.is_text else ""
        )
        number = self.next()
        about = f'<p:nvSpPr><p:cNvPr id="{number}" name="{name} {number}"/><p:cNvSpPr><a:spLocks noGrp="1"/></p:cNvSpPr><p:nvPr><p:ph{kind}{index}/></p:nvPr></p:nvSpPr>'
        self.put_text(number, about + f"<p:spPr>{place}</p:spPr>", paragraphs, None, "", shrunk)

    def put_text(
        self,
        number: int,
        before: str,
        paragraphs: list[Paragraph],
        inset: tuple[float, float] | None,
        anchor: str,
        further: str,
    ) -> None:
        """A shape with text. Programs that know no formulas show words in their place; some know those alone that stand alone."""
        kept = [one for one in paragraphs if self.step is None or one.step <= self.step] or [Paragraph("<a:p/>")]

        def whole(xml: str) -> str:
            return f"<p:sp>{before}{text_body(xml, inset, anchor, further)}</p:sp>"

        made = whole("".join(one.xml for one in kept))
        if any(one.has_formula for one in kept):
            plain = whole("".join(one.plain or one.xml for one in kept))
            requires = "a14" if len(kept) == 1 and kept[0].is_formula else _IN_WORDS
            made = f'<mc:AlternateContent><mc:Choice Requires="{requires}">{made}</mc:Choice><mc:Fallback>{plain}</mc:Fallback></mc:AlternateContent>'
        self.shapes.append(made)
        for at, one in enumerate(paragraphs):
            if one.step and one.step != self.under:
                self.comes(one.step, Target(number, at))
        if self.under:
            self.comes(self.under, Target(number))

    def box(
        self,
        name: str,
        box: Box,
        paragraphs: list[Paragraph],
        ground: str = "",
        edge: str = "",
        inset: tuple[float, float] = (0, 0),
        anchor: str = "t",
    ) -> None:
        """Text at a place of its own."""
        number = self.next()
        filled = fill(ground) if ground else "<a:noFill/>"
        looks = f'<p:spPr>{box.xml()}<a:prstGeom prst="rect"><a:avLst/></a:prstGeom>{filled}</p:spPr>'
        about = f'<p:nvSpPr><p:cNvPr id="{number}" name="{name} {number}"/><p:cNvSpPr txBox="1"/><p:nvPr/></p:nvSpPr>'
        self.put_text(number, about + looks, paragraphs, inset, anchor, "<a:noAutofit/>")
        if edge:
            self.bar(Box(box.x, box.y, 5, box.height), edge)

    def bar(self, box: Box, colour: str) -> None:
        """A coloured edge."""
        self.plain("Edge", box, fill(colour))

    def plain(self, name: str, box: Box, filled: str) -> None:
        """A rectangle that says nothing."""
        number = self.next()
        looks = f'<p:spPr>{box.xml()}<a:prstGeom prst="rect"><a:avLst/></a:prstGeom>{filled}<a:ln><a:noFill/></a:ln></p:spPr>'
        about = f'<p:nvSpPr><p:cNvPr id="{number}" name="{name} {number}">{_SAYS_NOTHING}</p:cNvPr><p:cNvSpPr/><p:nvPr/></p:nvSpPr>'
        self.shapes.append(
            f'<p:sp>{about}{looks}<p:txBody><a:bodyPr/><a:lstStyle/><a:p><a:endParaRPr lang="en"/></a:p></p:txBody></p:sp>'
        )
        if self.under:
            self.comes(self.under, Target(number))

    def picture(self, picture: n.Picture, room: Box, side: float) -> Box:
        """A picture as large as there is room for it; where it stands."""
        width, height = self.media.size(picture, 14.0)
        ratio = width / height if width and height else ratio_of(picture)
        across = min(room.width, room.height * ratio)
        box = Box(room.x + (room.width - across) * side, room.y, across, across / ratio)
        number = self.next()
        dots = self.relations.to("image", f"../{self.media.dots(picture)}")
        vectors = ""
        if file := self.media.vectors(picture):
            own = self.relations.to("image", f"../{file}")
            vectors = f'<a:extLst><a:ext uri="{VECTORS}"><asvg:svgBlip r:embed="{own}"/></a:ext></a:extLst>'
        words = escaped(picture.alt or f"Picture {number}")
        self.shapes.append(
            f'<p:pic><p:nvPicPr><p:cNvPr id="{number}" name="Picture {number}" descr="{words}"/><p:cNvPicPr><a:picLocks noChangeAspect="1"/></p:cNvPicPr><p:nvPr/></p:nvPicPr>'
            f'<p:blipFill><a:blip r:embed="{dots}">{vectors}</a:blip><a:stretch><a:fillRect/></a:stretch></p:blipFill>'
            f'<p:spPr>{box.xml()}<a:prstGeom prst="rect"><a:avLst/></a:prstGeom></p:spPr></p:pic>'
        )
        if self.under:
            self.comes(self.under, Target(number))
        return box
