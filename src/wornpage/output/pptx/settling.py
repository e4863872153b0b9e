"""Templates that say things otherwise, said as the standard has it: looks that stand in sample words, placeholders without numbers.

Some office programs write no styles for the text of a master: how its titles and its text look stands in the letters of the
words that ask to be clicked, and slides that are made in those programs carry it along. A slide that takes its looks from the
master finds nothing there.
"""

from __future__ import annotations

import re
from copy import deepcopy

from lxml import etree

from wornpage.output.ooxml.reading import Element
from wornpage.output.ooxml.xml import A
from wornpage.output.pptx.drawingml import P
from wornpage.tree.colours import contrast

_STYLES = {"titleStyle": ("title", "ctrTitle"), "bodyStyle": ("body", "obj")}
_GUTTER = 0.04
"""What parts two columns, of the width of both."""
_READABLE, _MOST_OF_IT = 1.6, 0.6
"""The least contrast of letters, and how much of a place something has to cover to be what lies behind it."""
_LEVELS = range(1, 10)
_OF_LETTERS = ("b", "i", "u", "sz", "spc", "cap")
_FONTS = ("solidFill", "gradFill", "latin", "ea", "cs")
_OF_LINES = ("marL", "indent", "algn", "rtl")


def number_holders(layout: Element) -> bool:
    """Give placeholders for content that share a number one of their own, by which slides can name them; whether any did."""
    held = [
        one for one in layout.iter(f"{{{P}}}ph") if one.get("type", "obj") in {"obj", "body", "pic", "tbl", "chart"}
    ]
    known = {one.get("idx", "0") for one in layout.iter(f"{{{P}}}ph")}
    seen: set[str] = set()
    is_changed = False
    free = (str(number) for number in range(101, 1000) if str(number) not in known)
    for one in held:
        if one.get("idx", "0") in seen:
            one.set("idx", next(free))
            is_changed = True
        seen.add(one.get("idx", "0"))
    return is_changed


def has_no_styles(master: Element) -> bool:
    """Whether a master leaves the looks of all text to its sample words."""
    return master.find(f"{{{P}}}txStyles") is None


def style_master(master: Element) -> None:
    """Write the styles of a master's text, by its sample words."""
    styles = etree.Element(f"{{{P}}}txStyles")
    for name, kinds in _STYLES.items():
        style = etree.SubElement(styles, f"{{{P}}}{name}")
        shape = next((one for one in _placeholders(master) if _kind(one) in kinds), None)
        if shape is not None:
            _write_levels(style, shape, has_lines=True)
            _without_unreadable(style, master, shape)
    etree.SubElement(styles, f"{{{P}}}otherStyle")
    behind = [f"{{{P}}}{name}" for name in ("cSld", "clrMap", "sldLayoutIdLst", "transition", "timing", "hf")]
    last = [one for one in master if one.tag in behind][-1]
    last.addnext(styles)


def _without_unreadable(style: Element, master: Element, shape: Element) -> None:
    """Take the colour from letters that nobody could read on what is known to lie behind them."""
    ground = _ground(master, shape)
    for letters in style.iter(f"{{{A}}}defRPr"):
        fill = letters.find(f"{{{A}}}solidFill")
        ink = digits(fill)
        if ground and ink and contrast(f"#{ink}", f"#{ground}") < _READABLE:
            letters.remove(fill)


def _ground(master: Element, shape: Element) -> str:
    """The colour behind most of a placeholder, in six digits; empty where a picture or something else lies there."""
    behind = master.find(f"{{{P}}}cSld/{{{P}}}bg")
    found = "FFFFFF" if behind is None else digits(behind.find(f"{{{P}}}bgPr/{{{A}}}solidFill"))
    box = _place(shape)
    for one in master.find(f"{{{P}}}cSld/{{{P}}}spTree"):
        is_holder = one.find(f".//{{{P}}}nvPr/{{{P}}}ph") is not None
        if not is_holder and _covered(box, _place(one)) > _MOST_OF_IT:
            found = digits(one.find(f"{{{P}}}spPr/{{{A}}}solidFill"))
    return found


def _place(shape: Element) -> tuple[int, int, int, int]:
    """Left, top, right and bottom of a shape; all nought where it does not say."""
    off, ext = shape.find(f".//{{{A}}}xfrm/{{{A}}}off"), shape.find(f".//{{{A}}}xfrm/{{{A}}}ext")
    if off is None or ext is None:
        return 0, 0, 0, 0
    left, top, width, height = (int(value) for value in (off.get("x"), off.get("y"), ext.get("cx"), ext.get("cy")))
    return left, top, left + width, top + height


def _covered(box: tuple[int, int, int, int], other: tuple[int, int, int, int]) -> float:
    """How much of a box lies on another, from 0 to 1."""
    across = min(box[2], other[2]) - max(box[0], other[0])
    down = min(box[3], other[3]) - max(box[1], other[1])
    whole = (box[2] - box[0]) * (box[3] - box[1])
    return max(across, 0) * max(down, 0) / whole if whole else 0.0


def digits(fill: Element | None) -> str:
    """The six digits of a plain colour that something is filled with; empty for all else."""
    colour = fill.find(f"{{{A}}}srgbClr") if fill is not None else None
    said = str(colour.get("val", "")) if colour is not None else ""
    return said.upper() if re.fullmatch("[0-9A-Fa-f]{6}", said) else ""


def style_layout(layout: Element, master: Element) -> None:
    """The same for a layout. One with a subtitle looks as its samples do; such programs write all others as if for covers."""
    shapes = [one for one in _placeholders(layout) if _kind(one) not in {"ftr", "dt", "sldNum"}]
    if any(_kind(one) == "subTitle" for one in shapes):
        for shape in shapes:
            _style_shape(shape)
    else:
        _place_as(shapes, {_kind(one): one for one in _placeholders(master)})


def _style_shape(shape: Element) -> None:
    body = shape.find(f"{{{P}}}txBody")
    about = body.find(f"{{{A}}}bodyPr") if body is not None else None
    if body is None or about is None:
        return
    own = body.find(f"{{{A}}}lstStyle")
    if own is None:
        own = etree.Element(f"{{{A}}}lstStyle")
        about.addnext(own)
    if not len(own):
        _write_levels(own, shape, has_lines=True)


def _place_as(shapes: list[Element], masters: dict[str, Element]) -> None:
    """Let a title stand where the master's stands; one place for content, or two side by side, where its text does."""
    contents = [one for one in shapes if _kind(one) in _STYLES["bodyStyle"]]
    for shape in shapes:
        if _kind(shape) == "title" and "title" in masters:
            _put(shape, masters["title"], 0, 1)
    if "body" in masters and len(contents) in {1, 2}:
        for at, shape in enumerate(contents):
            _put(shape, masters["body"], at, len(contents))


def _put(shape: Element, other: Element, at: int, count: int) -> None:
    """Let a shape stand where another does, or in one of some columns of that place."""
    place, about = other.find(f"{{{P}}}spPr/{{{A}}}xfrm"), shape.find(f"{{{P}}}spPr")
    if place is None or about is None:
        return
    for old in about.findall(f"{{{A}}}xfrm"):
        about.remove(old)
    made = deepcopy(place)
    off, ext = made.find(f"{{{A}}}off"), made.find(f"{{{A}}}ext")
    if off is None or ext is None:
        return
    width = int(ext.get("cx"))
    column = round(width * (1 - _GUTTER * (count - 1)) / count)
    off.set("x", str(int(off.get("x")) + at * (width - column) // max(count - 1, 1)))
    ext.set("cx", str(column))
    about.insert(0, made)


def letters_colour(master: Element) -> Element | None:
    """What the letters of a master's text are filled with, if it says so."""
    return master.find(f"{{{P}}}txStyles/{{{P}}}bodyStyle/{{{A}}}lvl1pPr/{{{A}}}defRPr/{{{A}}}solidFill")


def colour_other_text(presentation: Element, fill: Element) -> None:
    """Let text that stands in no placeholder have a colour, where nothing says which it has."""
    styles = presentation.find(f"{{{P}}}defaultTextStyle")
    if styles is None:
        styles = etree.Element(f"{{{P}}}defaultTextStyle")
        size = presentation.find(f"{{{P}}}notesSz")
        (size if size is not None else presentation[-1]).addnext(styles)
    for level in _LEVELS:
        lines = styles.find(f"{{{A}}}lvl{level}pPr")
        lines = lines if lines is not None else etree.SubElement(styles, f"{{{A}}}lvl{level}pPr")
        letters = lines.find(f"{{{A}}}defRPr")
        letters = letters if letters is not None else etree.SubElement(lines, f"{{{A}}}defRPr")
        if letters.find(f"{{{A}}}solidFill") is None:
            letters.insert(0, deepcopy(fill))


def _placeholders(root: Element) -> list[Element]:
    return [one for one in root.iter(f"{{{P}}}sp") if one.find(f".//{{{P}}}nvPr/{{{P}}}ph") is not None]


def _kind(shape: Element) -> str:
    return str(shape.find(f".//{{{P}}}nvPr/{{{P}}}ph").get("type", "obj"))


def _write_levels(style: Element, shape: Element, has_lines: bool) -> None:
    """`a:lvl1pPr` and its like, by the first sample of each level; deeper ones have the letters of the last that there is."""
    samples: dict[int, Element] = {}
    for paragraph in shape.iter(f"{{{A}}}p"):
        about = paragraph.find(f"{{{A}}}pPr")
        level = about.get("lvl", "0") if about is not None else "0"
        samples.setdefault(int(level) + 1 if level.isdigit() else 1, paragraph)
    last: Element | None = None
    for level in _LEVELS:
        last = samples.get(level, last)
        if last is not None:
            made = _level(last, level, has_lines and level in samples, level in samples or len(samples) > 1)
            if made is not None:
                style.append(made)


def _level(sample: Element, level: int, has_lines: bool, has_size: bool) -> Element | None:
    """A level, as a sample looks; None for a sample that says nothing of its letters."""
    letters = next(iter(sample.iter(f"{{{A}}}rPr", f"{{{A}}}endParaRPr")), None)
    if letters is None:
        return None
    made = etree.Element(f"{{{A}}}lvl{level}pPr")
    lines = sample.find(f"{{{A}}}pPr")
    if has_lines and lines is not None:
        made.attrib.update({name: lines.get(name) for name in _OF_LINES if lines.get(name)})
        made.extend(deepcopy(one) for one in lines if etree.QName(one).localname not in {"defRPr", "extLst"})
    own = etree.SubElement(made, f"{{{A}}}defRPr")
    wanted = _OF_LETTERS if has_size else tuple(name for name in _OF_LETTERS if name != "sz")
    own.attrib.update({name: letters.get(name) for name in wanted if letters.get(name)})
    own.extend(deepcopy(one) for one in letters if etree.QName(one).localname in _FONTS)
    return made
