"""Small pieces of PresentationML and DrawingML as text: places, shapes, runs, paragraphs."""

from __future__ import annotations

from msgspec import Struct

from wornpage.output.ooxml.xml import A, M, R, escaped

P = "http://schemas.openxmlformats.org/presentationml/2006/main"
NAMESPACES = (
    f'xmlns:a="{A}" xmlns:r="{R}" xmlns:p="{P}" xmlns:m="{M}" '
    'xmlns:mc="http://schemas.openxmlformats.org/markup-compatibility/2006" '
    'xmlns:a14="http://schemas.microsoft.com/office/drawing/2010/main" '
    'xmlns:a16="http://schemas.microsoft.com/office/drawing/2014/main" '
    'xmlns:asvg="http://schemas.microsoft.com/office/drawing/2016/SVG/main"'
)
_EMUS = 9525
"""In a point of a screen, 96 to the inch."""
LIGHT_MAP = (
    'bg1="lt1" tx1="dk1" bg2="lt2" tx2="dk2" accent1="accent1" accent2="accent2" accent3="accent3" accent4="accent4" '
    'accent5="accent5" accent6="accent6" hlink="hlink" folHlink="folHlink"'
)
"""Which colours of a theme are ground and ink: dark letters on light."""
DARK_MAP = (
    LIGHT_MAP.replace('accent1="accent1"', 'accent1="lt1"')
    .replace('bg1="lt1" tx1="dk1"', 'bg1="dk1" tx1="lt1"')
    .replace('hlink="hlink" folHlink="folHlink"', 'hlink="lt1" folHlink="lt1"')
)
"""Light letters on dark."""
GROUP = '<p:nvGrpSpPr><p:cNvPr id="1" name=""/><p:cNvGrpSpPr/><p:nvPr/></p:nvGrpSpPr><p:grpSpPr/>'
"""What every tree of shapes begins with."""


def emu(points: float) -> int:
    """A length in points of a screen, as drawings have it."""
    return round(points * _EMUS)


class Box(Struct, frozen=True):
    """A place on a slide, in points of a screen."""

    x: float
    y: float
    width: float
    height: float

    def xml(self, tag: str = "a:xfrm") -> str:
        """As shapes have it."""
        off = f'<a:off x="{emu(self.x)}" y="{emu(self.y)}"/>'
        return f'<{tag}>{off}<a:ext cx="{emu(max(self.width, 1))}" cy="{emu(max(self.height, 1))}"/></{tag}>'


_OF_THEME = '<a:latin typeface="+mn-lt"/><a:ea typeface="+mn-ea"/><a:cs typeface="+mn-cs"/>'
"""The fonts of the template's text, said where a size is: some programs take others in boxes of text."""


class Face(Struct, frozen=True):
    """How letters look."""

    size: float = 0.0
    """Points of a screen; 0 for that of where they stand."""
    bold: bool = False
    italic: bool = False
    strike: bool = False
    small_caps: bool = False
    raised: int = 0
    """Per cent of their height."""
    font: str = ""
    colour: str = ""
    """Six digits, or the name of a colour of the theme; empty for that of where they stand."""
    behind: str = ""
    link: str = ""
    """The id of a relationship."""
    jump: bool = False
    """Whether the link leads to another slide."""

    def properties(self, tag: str, language: str) -> str:
        """As `a:rPr`, or as what ends a paragraph."""
        told = [
            f'lang="{escaped(language)}"',
            f'sz="{max(round(self.size * 75), 100)}"' if self.size else "",
            'b="1"' if self.bold else "",
            'i="1"' if self.italic else "",
            'strike="sngStrike"' if self.strike else "",
            'cap="small"' if self.small_caps else "",
            f'baseline="{self.raised * 1000}"' if self.raised else "",
            'dirty="0"',
        ]
        action = ' action="ppaction://hlinksldjump"' if self.jump else ""
        inner = [
            fill(self.colour) if self.colour else "",
            f"<a:highlight>{_colour(self.behind)}</a:highlight>" if self.behind else "",
            f'<a:latin typeface="{self.font}"/><a:cs typeface="{self.font}"/>'
            if self.font
            else _OF_THEME
            if self.size
            else "",
            f'<a:hlinkClick r:id="{self.link}"{action}/>' if self.link else "",
        ]
        return f"<{tag} {' '.join(filter(None, told))}>{''.join(inner)}</{tag}>"


def _colour(colour: str) -> str:
    is_digits = len(colour) == 6 and all(digit in "0123456789abcdefABCDEF" for digit in colour)
    return f'<a:srgbClr val="{colour.upper()}"/>' if is_digits else f'<a:schemeClr val="{colour}"/>'


def fill(colour: str) -> str:
    """A colour that fills something; six digits, or the name of one of the theme."""
    return f"<a:solidFill>{_colour(colour)}</a:solidFill>"


class Lines(Struct, frozen=True):
    """How a paragraph stands."""

    level: int = 0
    align: str = ""
    """`l`, `ctr` or `r`; empty for that of where it stands."""
    mark: str = ""
    """XML of what stands before it, such as a bullet; empty for that of where it stands."""
    left: float = -1.0
    """Points it stands in; less than 0 for what its place says."""
    first: float = 0.0
    """Points that its first line stands further in."""
    before: float = -1.0
    """Points above it; less than 0 for what its place says."""
    leading: float = 0.0
    """Per cent of a line's height; 0 for what its place says."""
    rtl: bool = False

    def xml(self) -> str:
        """As `a:pPr`."""
        align = self.align or ("r" if self.rtl else "")
        told = [
            f'marL="{emu(self.left)}" indent="{emu(self.first)}"' if self.left >= 0 else "",
            f'lvl="{min(self.level, 8)}"' if self.level else "",
            f'algn="{align}"' if align else "",
            'rtl="1"' if self.rtl else "",
        ]
        inner = [
            f'<a:lnSpc><a:spcPct val="{round(self.leading * 1000)}"/></a:lnSpc>' if self.leading else "",
            f'<a:spcBef><a:spcPts val="{round(self.before * 75)}"/></a:spcBef>' if self.before >= 0 else "",
            self.mark,
        ]
        attributes = " ".join(filter(None, told))
        return f"<a:pPr{' ' if attributes else ''}{attributes}>{''.join(inner)}</a:pPr>"


BARE = "<a:buNone/>"
BULLET = '<a:buFont typeface="Arial"/><a:buChar char="•"/>'


def numbered(start: int) -> str:
    """A number before a paragraph."""
    return f'<a:buSzPct val="100000"/><a:buFont typeface="+mj-lt"/><a:buAutoNum type="arabicPeriod" startAt="{max(start, 1)}"/>'


def text_body(
    paragraphs: str,
    inset: tuple[float, float] | None = None,
    anchor: str = "",
    further: str = "",
) -> str:
    """The text of a shape: `inset` across and down, None for what its place says."""
    told = (
        f' lIns="{emu(inset[0])}" tIns="{emu(inset[1])}" rIns="{emu(inset[0])}" bIns="{emu(inset[1])}"' if inset else ""
    )
    held = f' anchor="{anchor}"' if anchor else ""
    return f'<p:txBody><a:bodyPr wrap="square"{told}{held}>{further}</a:bodyPr><a:lstStyle/>{paragraphs}</p:txBody>'
