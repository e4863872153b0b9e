"""Small pieces of WordprocessingML as text: escaped letters, runs, paragraphs, properties in the order that the schema has."""

from __future__ import annotations

from typing import Literal

from msgspec import Struct

from wornpage.output.ooxml.xml import A, M, R, escaped

W = "http://schemas.openxmlformats.org/wordprocessingml/2006/main"
NAMESPACES = (
    f'xmlns:w="{W}" xmlns:r="{R}" '
    f'xmlns:m="{M}" '
    'xmlns:wp="http://schemas.openxmlformats.org/drawingml/2006/wordprocessingDrawing" '
    f'xmlns:a="{A}" '
    'xmlns:pic="http://schemas.openxmlformats.org/drawingml/2006/picture" '
    'xmlns:asvg="http://schemas.microsoft.com/office/drawing/2016/SVG/main"'
)


class Look(Struct, frozen=True):
    """How letters look where that is not what their style says."""

    style: str = ""
    """A character style, by its id."""
    bold: bool = False
    italic: bool = False
    strike: bool = False
    small_caps: bool = False
    height: Literal["", "superscript", "subscript"] = ""
    shade: str = ""
    """Six digits of the colour behind them."""
    points: float = 0.0
    """Their size; 0 for that of the style."""
    is_code: bool = False
    """Whether no spelling checker is to look at them."""
    rtl: bool = False
    """Whether they run from right to left."""

    def properties(self) -> str:
        """As `w:rPr`; empty where there is nothing to say."""
        parts = (
            f'<w:rStyle w:val="{self.style}"/>' if self.style else "",
            "<w:b/><w:bCs/>" if self.bold else "",
            "<w:i/><w:iCs/>" if self.italic else "",
            "<w:smallCaps/>" if self.small_caps else "",
            "<w:strike/>" if self.strike else "",
            "<w:noProof/>" if self.is_code else "",
            f'<w:sz w:val="{round(self.points * 2)}"/><w:szCs w:val="{round(self.points * 2)}"/>'
            if self.points
            else "",
            f'<w:shd w:val="clear" w:color="auto" w:fill="{self.shade}"/>' if self.shade else "",
            f'<w:vertAlign w:val="{self.height}"/>' if self.height else "",
            "<w:rtl/>" if self.rtl else "",
        )
        made = "".join(parts)
        return f"<w:rPr>{made}</w:rPr>" if made else ""


PLAIN = Look()


def run(text: str, properties: str = "") -> str:
    """Letters in one look (`Look.properties`); tabs and line ends in them are such."""
    if not text:
        return ""
    if "\t" not in text and "\n" not in text:
        return f'<w:r>{properties}<w:t xml:space="preserve">{escaped(text)}</w:t></w:r>'
    lines = text.replace("\r", "").split("\n")
    made = [
        "<w:tab/>".join(f'<w:t xml:space="preserve">{escaped(one)}</w:t>' if one else "" for one in line.split("\t"))
        for line in lines
    ]
    return f"<w:r>{properties}{'<w:br/>'.join(made)}</w:r>"


def field(code: str, result: str, properties: str = "") -> str:
    """A field with what it shows until it is brought up to date; `result` is runs."""

    def sign(kind: str) -> str:
        return f'<w:r>{properties}<w:fldChar w:fldCharType="{kind}"/></w:r>'

    told = f'<w:r>{properties}<w:instrText xml:space="preserve"> {escaped(code)} </w:instrText></w:r>'
    return sign("begin") + told + sign("separate") + result + sign("end")


_ORDER = {
    name: place
    for place, name in enumerate(
        (
            "pStyle", "keepNext", "keepLines", "pageBreakBefore", "framePr", "widowControl", "numPr", "suppressLineNumbers",
            "pBdr", "shd", "tabs", "suppressAutoHyphens", "bidi", "spacing", "ind", "contextualSpacing", "jc", "outlineLvl",
            "rPr", "sectPr",
        )
    )
}  # fmt: skip
"""Properties of paragraphs in the order of the schema, as far as we write them."""


class Properties:
    """Properties of a paragraph, or of the paragraphs of a style; later ones of a name take the place of earlier ones."""

    def __init__(self, **given: str) -> None:
        self._parts: dict[str, str] = {}
        for name, value in given.items():
            self.add(name, value)

    def add(self, name: str, attributes: str = "") -> Properties:
        """An empty element with `attributes`, such as `w:val="both"`; what begins with `<` stands in it."""
        if attributes.startswith("<"):
            self._parts[name] = f"<w:{name}>{attributes}</w:{name}>"
        else:
            self._parts[name] = f"<w:{name} {attributes}/>" if attributes else f"<w:{name}/>"
        return self

    def has(self, name: str) -> bool:
        """Whether a property is set."""
        return name in self._parts

    def __str__(self) -> str:
        return "".join(self._parts[name] for name in sorted(self._parts, key=_ORDER.__getitem__))


def paragraph(inner: str, properties: Properties) -> str:
    """A paragraph of runs and what stands among them."""
    made = str(properties)
    return f"<w:p><w:pPr>{made}</w:pPr>{inner}</w:p>" if made else f"<w:p>{inner}</w:p>"


def twips(centimetres: float) -> int:
    """A length in twentieths of a point."""
    return round(centimetres / 2.54 * 1440)
