"""Our own template: a theme, a master, six layouts. It goes the same way as one that somebody brings."""

from __future__ import annotations

from wornpage.output.deck.model import Shape
from wornpage.output.ooxml.package import relations_part, types_part
from wornpage.output.ooxml.xml import HEAD, R
from wornpage.output.pptx.drawingml import DARK_MAP, GROUP, LIGHT_MAP, NAMESPACES, Box, emu

FONT, CODE_FONT = "Calibri", "Consolas"
_COLOURS = {
    "dk1": "1D2024", "lt1": "FFFFFF", "dk2": "1C5A63", "lt2": "F1EEE6", "accent1": "1C5A63", "accent2": "98321F", "accent3": "D98A00",
    "accent4": "3C6019", "accent5": "7A2E5D", "accent6": "1B4F8A", "hlink": "1C5A63", "folHlink": "5B5F66",
}  # fmt: skip
_OFFICE = "application/vnd.openxmlformats-officedocument.presentationml."


def own_parts(shape: Shape) -> dict[str, bytes]:
    """All parts of an empty presentation."""
    layouts = _layouts(shape)
    names = {f"ppt/slideLayouts/slideLayout{at}.xml": text for at, text in enumerate(layouts, 1)}
    overrides = {
        "ppt/presentation.xml": f"{_OFFICE}presentation.main+xml",
        "ppt/slideMasters/slideMaster1.xml": f"{_OFFICE}slideMaster+xml",
        "ppt/theme/theme1.xml": "application/vnd.openxmlformats-officedocument.theme+xml",
        "ppt/tableStyles.xml": f"{_OFFICE}tableStyles+xml",
        "ppt/presProps.xml": f"{_OFFICE}presProps+xml",
        **dict.fromkeys(names, f"{_OFFICE}slideLayout+xml"),
    }
    presentation = (
        f'{HEAD}<p:presentation {NAMESPACES}><p:sldMasterIdLst><p:sldMasterId id="2147483648" r:id="rId1"/></p:sldMasterIdLst>'
        f'<p:sldSz cx="{emu(shape.width)}" cy="{emu(shape.height)}"/><p:notesSz cx="6858000" cy="9144000"/>'
        '<p:defaultTextStyle><a:lvl1pPr><a:defRPr sz="1800"><a:solidFill><a:schemeClr val="tx1"/></a:solidFill>'
        '<a:latin typeface="+mn-lt"/><a:ea typeface="+mn-ea"/><a:cs typeface="+mn-cs"/></a:defRPr></a:lvl1pPr></p:defaultTextStyle></p:presentation>'
    )
    to_layouts = "".join(
        _lead(at, "slideLayout", f"../slideLayouts/slideLayout{at}.xml") for at in range(1, len(layouts) + 1)
    )
    made = {
        "[Content_Types].xml": types_part(overrides),
        "_rels/.rels": relations_part(_lead(1, "officeDocument", "ppt/presentation.xml")),
        "ppt/presentation.xml": presentation,
        "ppt/_rels/presentation.xml.rels": relations_part(
            _lead(1, "slideMaster", "slideMasters/slideMaster1.xml")
            + _lead(2, "theme", "theme/theme1.xml")
            + _lead(3, "tableStyles", "tableStyles.xml")
            + _lead(4, "presProps", "presProps.xml")
        ),
        "ppt/presProps.xml": f"{HEAD}<p:presentationPr {NAMESPACES}/>",
        "ppt/tableStyles.xml": f'{HEAD}<a:tblStyleLst {NAMESPACES} def="{{5C22544A-7EE6-4342-B048-85BDC9FD1C3A}}"/>',
        "ppt/theme/theme1.xml": theme("Worn Page"),
        "ppt/slideMasters/slideMaster1.xml": _master(shape, len(layouts)),
        "ppt/slideMasters/_rels/slideMaster1.xml.rels": relations_part(
            to_layouts + _lead(len(layouts) + 1, "theme", "../theme/theme1.xml")
        ),
        **names,
    }
    for name in names:
        made[name.replace("slideLayouts/", "slideLayouts/_rels/") + ".rels"] = relations_part(
            _lead(1, "slideMaster", "../slideMasters/slideMaster1.xml")
        )
    return {name: text.encode("utf-8") for name, text in made.items()}


def _lead(number: int, kind: str, target: str) -> str:
    return f'<Relationship Id="rId{number}" Type="{R}/{kind}" Target="{target}"/>'


def theme(name: str) -> str:
    """A theme with our colours and fonts."""
    colours = "".join(f'<a:{key}><a:srgbClr val="{value}"/></a:{key}>' for key, value in _COLOURS.items())
    font = f'<a:latin typeface="{FONT}"/><a:ea typeface=""/><a:cs typeface=""/>'
    plain = '<a:solidFill><a:schemeClr val="phClr"/></a:solidFill>'
    lines = "".join(f'<a:ln w="{width}">{plain}<a:prstDash val="solid"/></a:ln>' for width in (6350, 12700, 19050))
    effects = "<a:effectStyle><a:effectLst/></a:effectStyle>" * 3
    return (
        f'{HEAD}<a:theme {NAMESPACES} name="{name}"><a:themeElements><a:clrScheme name="{name}">{colours}</a:clrScheme>'
        f'<a:fontScheme name="{name}"><a:majorFont>{font}</a:majorFont><a:minorFont>{font}</a:minorFont></a:fontScheme>'
        f'<a:fmtScheme name="{name}"><a:fillStyleLst>{plain * 3}</a:fillStyleLst><a:lnStyleLst>{lines}</a:lnStyleLst>'
        f"<a:effectStyleLst>{effects}</a:effectStyleLst><a:bgFillStyleLst>{plain * 3}</a:bgFillStyleLst></a:fmtScheme>"
        "</a:themeElements></a:theme>"
    )


# --- master and layouts -----------------------------------------------------------------------------


def _places(shape: Shape) -> dict[str, Box]:
    """Where things stand, in points of a screen."""
    side, wide = float(shape.side), shape.inner
    below = shape.top + shape.title * 1.15 + 20
    half = (wide - 32) / 2
    height = shape.height - below - shape.foot
    indent = side * 1.5
    return {
        "title": Box(side, shape.top, wide, shape.title * 1.15 + 8),
        "body": Box(side, below, wide, height),
        "left": Box(side, below, half, height),
        "right": Box(side + half + 32, below, half, height),
        "footer": Box(side, shape.height - 36, wide * 0.8, 22),
        "number": Box(side + wide * 0.85, shape.height - 36, wide * 0.15, 22),
        "bar": Box(indent, shape.height * 0.28, 6, shape.height * 0.46),
        "first": Box(indent + 42, shape.height * 0.26, shape.width - 2 * indent - 42, shape.height * 0.24),
        "under": Box(indent + 42, shape.height * 0.52, shape.width - 2 * indent - 42, shape.height * 0.24),
        "section": Box(indent, shape.height * 0.3, shape.width - 2 * indent, shape.height * 0.4),
    }


def _holder(
    number: int, name: str, held: str, box: Box | None, words: str, anchor: str = "", style: str = "", size: int = 0
) -> str:
    place = f"<p:spPr>{box.xml()}</p:spPr>" if box else "<p:spPr/>"
    inset = ' lIns="0" tIns="0" rIns="0" bIns="0"'
    about = f"<a:bodyPr{inset}{f' anchor={chr(34)}{anchor}{chr(34)}' if anchor else ''}><a:normAutofit/></a:bodyPr>"
    own = f"<a:lstStyle>{style}</a:lstStyle>" if style else "<a:lstStyle/>"
    field = (
        '<a:fld id="{B6F15528-21DE-4FAA-801E-634DDDAF4B2B}" type="slidenum"><a:rPr lang="en"/><a:t>‹#›</a:t></a:fld>'
        if "sldNum" in held
        else (f'<a:r><a:rPr lang="en"/><a:t>{words}</a:t></a:r>' if words else "")
    )
    return (
        f'<p:sp><p:nvSpPr><p:cNvPr id="{number}" name="{name}"/><p:cNvSpPr><a:spLocks noGrp="1"/></p:cNvSpPr><p:nvPr><p:ph {held}/></p:nvPr></p:nvSpPr>'
        f'{place}<p:txBody>{about}{own}<a:p>{field}<a:endParaRPr lang="en"/></a:p></p:txBody></p:sp>'
    )


def _small(align: str) -> str:
    return f'<a:lvl1pPr algn="{align}"><a:defRPr sz="{(15 * 75)}"><a:solidFill><a:schemeClr val="tx1"><a:lumMod val="65000"/><a:lumOff val="35000"/></a:schemeClr></a:solidFill><a:latin typeface="+mn-lt"/></a:defRPr></a:lvl1pPr>'


def _foot(shape: Shape, first: int, placed: bool) -> str:
    at = _places(shape)
    footer = _holder(
        first,
        "Footer",
        'type="ftr" sz="quarter" idx="11"',
        at["footer"] if placed else None,
        "",
        "ctr",
        _small("l") if placed else "",
    )
    number = _holder(
        first + 1,
        "Number",
        'type="sldNum" sz="quarter" idx="12"',
        at["number"] if placed else None,
        "",
        "ctr",
        _small("r") if placed else "",
    )
    return footer + number


def _master(shape: Shape, layouts: int) -> str:
    at = _places(shape)
    tree = (
        _holder(2, "Title", 'type="title"', at["title"], "Title")
        + _holder(3, "Text", 'type="body" idx="1"', at["body"], "Text")
        + _foot(shape, 4, True)
    )
    ids = "".join(f'<p:sldLayoutId id="{2147483648 + number}" r:id="rId{number}"/>' for number in range(1, layouts + 1))
    levels = "".join(_level(shape, level) for level in range(1, 10))
    title = (
        '<a:lvl1pPr algn="l"><a:lnSpc><a:spcPct val="95000"/></a:lnSpc><a:spcBef><a:spcPct val="0"/></a:spcBef><a:buNone/>'
        f'<a:defRPr sz="{round(shape.title * 75)}" b="1"><a:solidFill><a:schemeClr val="tx1"/></a:solidFill>'
        '<a:latin typeface="+mj-lt"/><a:ea typeface="+mj-ea"/><a:cs typeface="+mj-cs"/></a:defRPr></a:lvl1pPr>'
    )
    other = '<a:lvl1pPr><a:defRPr sz="1800"><a:latin typeface="+mn-lt"/></a:defRPr></a:lvl1pPr>'
    return (
        f'{HEAD}<p:sldMaster {NAMESPACES}><p:cSld><p:bg><p:bgPr><a:solidFill><a:schemeClr val="bg1"/></a:solidFill><a:effectLst/></p:bgPr></p:bg>'
        f"<p:spTree>{GROUP}{tree}</p:spTree></p:cSld><p:clrMap {LIGHT_MAP}/><p:sldLayoutIdLst>{ids}</p:sldLayoutIdLst>"
        f"<p:txStyles><p:titleStyle>{title}</p:titleStyle><p:bodyStyle>{levels}</p:bodyStyle><p:otherStyle>{other}</p:otherStyle></p:txStyles></p:sldMaster>"
    )


def _level(shape: Shape, level: int) -> str:
    """How text looks at a level of lists."""
    size = shape.text * (1.0, 0.9, 0.83, 0.8)[min(level, 4) - 1]
    step = 36.0
    return (
        f'<a:lvl{level}pPr marL="{emu(step * level)}" indent="{-emu(step * 0.75)}" algn="l"><a:lnSpc><a:spcPct val="110000"/></a:lnSpc>'
        f'<a:spcBef><a:spcPts val="{round(6.3 * 75)}"/></a:spcBef><a:buClr><a:schemeClr val="accent1"/></a:buClr><a:buFont typeface="Arial"/><a:buChar char="{"•–·•–·•–·"[level - 1]}"/>'
        f'<a:defRPr sz="{round(size * 75)}"><a:solidFill><a:schemeClr val="tx1"/></a:solidFill>'
        f'<a:latin typeface="+mn-lt"/><a:ea typeface="+mn-ea"/><a:cs typeface="+mn-cs"/></a:defRPr></a:lvl{level}pPr>'
    )


def _layout(kind: str, name: str, tree: str, ground: str = "", dark: bool = False) -> str:
    told = f' type="{kind}"'
    colours = f"<a:overrideClrMapping {DARK_MAP}/>" if dark else "<a:masterClrMapping/>"
    behind = (
        f'<p:bg><p:bgPr><a:solidFill><a:schemeClr val="{ground}"/></a:solidFill><a:effectLst/></p:bgPr></p:bg>'
        if ground
        else ""
    )
    return (
        f'{HEAD}<p:sldLayout {NAMESPACES}{told} preserve="1"><p:cSld name="{name}">{behind}<p:spTree>{GROUP}{tree}</p:spTree></p:cSld>'
        f"<p:clrMapOvr>{colours}</p:clrMapOvr></p:sldLayout>"
    )


def _layouts(shape: Shape) -> list[str]:
    at = _places(shape)
    title = _holder(2, "Title", 'type="title"', None, "Title")
    bar = (
        '<p:sp><p:nvSpPr><p:cNvPr id="9" name="Bar"/><p:cNvSpPr/><p:nvPr userDrawn="1"/></p:nvSpPr>'
        f'<p:spPr>{at["bar"].xml()}<a:prstGeom prst="rect"><a:avLst/></a:prstGeom><a:solidFill><a:schemeClr val="accent1"/></a:solidFill><a:ln><a:noFill/></a:ln></p:spPr>'
        '<p:txBody><a:bodyPr/><a:lstStyle/><a:p><a:endParaRPr lang="en"/></a:p></p:txBody></p:sp>'
    )
    large = f'<a:lvl1pPr algn="l"><a:defRPr sz="{(58 * 75)}" b="1"/></a:lvl1pPr>'
    under = f'<a:lvl1pPr marL="0" indent="0" algn="l"><a:buNone/><a:defRPr sz="{(24 * 75)}"/></a:lvl1pPr>'
    section = f'<a:lvl1pPr algn="l"><a:defRPr sz="{(52 * 75)}" b="1"/></a:lvl1pPr>'
    first = _holder(2, "Title", 'type="ctrTitle"', at["first"], "Title", "b", large) + _holder(
        3, "Subtitle", 'type="subTitle" idx="1"', at["under"], "Subtitle", "t", under
    )
    return [
        _layout("title", "First slide", bar + first),
        _layout(
            "secHead",
            "Section",
            _holder(2, "Title", 'type="title"', at["section"], "Title", "ctr", section) + _foot(shape, 4, False),
            "tx2",
            True,
        ),
        _layout("obj", "Title and text", title + _holder(3, "Text", 'idx="1"', None, "Text") + _foot(shape, 4, False)),
        _layout(
            "twoObj",
            "Two columns",
            title
            + _holder(3, "Left", 'sz="half" idx="1"', at["left"], "Text")
            + _holder(6, "Right", 'sz="half" idx="2"', at["right"], "Text")
            + _foot(shape, 4, False),
        ),
        _layout("titleOnly", "Title alone", title + _foot(shape, 4, False)),
        _layout("blank", "Empty", _foot(shape, 4, False)),
    ]
