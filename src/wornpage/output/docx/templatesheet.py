"""The sheets of a template: its size, margins, heads and feet, as its last section has them."""

from __future__ import annotations

from copy import deepcopy
from typing import Any

from lxml import etree

from wornpage.output.docx.looks import Looks
from wornpage.output.docx.options import DocxPress
from wornpage.output.docx.sheet import Sheet, sheet_of
from wornpage.output.docx.xml import W

Element = Any
_W = f"{{{W}}}"
_CENTIMETRE = 1440 / 2.54
_BEFORE_TYPE = {f"{_W}{name}" for name in ("headerReference", "footerReference", "footnotePr", "endnotePr")}


class TemplateSheet(Sheet, frozen=True):
    """Sheets whose sections are copies of the template's last."""

    held: Any = None
    """That section, as an element."""

    def section(self, columns: int, turned: bool, kind: str, is_first: bool) -> str:
        """What stands in `w:sectPr`."""
        section = deepcopy(self.held)
        if not is_first:
            _set_type(section, kind)
            _remove(section, "titlePg")
            _remove(section, "pgNumType")
        if turned:
            _turn(section)
        if turned or columns != self.columns:
            _remove(section, "cols")
            own = etree.Element(f"{_W}cols", {f"{_W}num": str(columns), f"{_W}space": "720"})
            at = [one for one in section if etree.QName(one).localname in _BEFORE_COLUMNS]
            at[-1].addnext(own) if at else section.insert(0, own)
        return "".join(etree.tostring(one, encoding="unicode", with_tail=False) for one in section)


_BEFORE_COLUMNS = {"headerReference", "footerReference", "footnotePr", "endnotePr", "type", "pgSz", "pgMar", "paperSrc",
                   "pgBorders", "lnNumType", "pgNumType"}  # fmt: skip


def sheet_in(section: Element, looks: Looks, options: DocxPress) -> TemplateSheet:
    """The sheets that the last section of a template tells of; A4 where it does not say."""
    usual = sheet_of(options.paper, looks, rtl=False)
    size, margins, columns = (section.find(f"{_W}{name}") for name in ("pgSz", "pgMar", "cols"))
    width, height = _length(size, "w", usual.width), _length(size, "h", usual.height)
    count = int(columns.get(f"{_W}num", 1)) if columns is not None else 1
    return TemplateSheet(
        width, height, abs(_length(margins, "top", usual.top)), abs(_length(margins, "bottom", usual.bottom)),
        (_length(margins, "left", usual.sides[0]), _length(margins, "right", usual.sides[1])),
        count, _length(columns, "space", usual.gutter), held=section,
    )  # fmt: skip


def _length(element: Element, name: str, otherwise: float) -> float:
    """Centimetres of an attribute in twips."""
    told = element.get(f"{_W}{name}") if element is not None else None
    try:
        return float(told) / _CENTIMETRE if told else otherwise
    except ValueError:
        return otherwise


def _remove(section: Element, name: str) -> None:
    found = section.find(f"{_W}{name}")
    if found is not None:
        section.remove(found)


def _set_type(section: Element, kind: str) -> None:
    _remove(section, "type")
    made = etree.Element(f"{_W}type", {f"{_W}val": kind})
    before = [one for one in section if one.tag in _BEFORE_TYPE]
    before[-1].addnext(made) if before else section.insert(0, made)


def _turn(section: Element) -> None:
    """Lay the sheet on its other side; margins go with it."""
    size, margins = section.find(f"{_W}pgSz"), section.find(f"{_W}pgMar")
    if size is not None:
        width, height = size.get(f"{_W}w"), size.get(f"{_W}h")
        size.set(f"{_W}w", height)
        size.set(f"{_W}h", width)
        if int(height) > int(width):
            size.set(f"{_W}orient", "landscape")
        else:
            size.attrib.pop(f"{_W}orient", None)
    if margins is not None:
        old = {side: margins.get(f"{_W}{side}") for side in ("top", "right", "bottom", "left")}
        for side, other in (("top", "right"), ("left", "top"), ("bottom", "left"), ("right", "bottom")):
            if old[other] is not None:
                margins.set(f"{_W}{side}", old[other])
