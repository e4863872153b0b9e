"""A template: the parts of a presentation without its slides, and its layouts by what they are for."""

from __future__ import annotations

import posixpath
import re
from collections import Counter
from collections.abc import Iterator, Mapping
from functools import cached_property

from lxml import etree
from msgspec import Struct

from wornpage.output.deck.model import Shape
from wornpage.output.ooxml.package import relations_of
from wornpage.output.ooxml.reading import Element, leads_in, parsed, serialized, template_fault
from wornpage.output.ooxml.xml import A, R
from wornpage.output.pptx import settling
from wornpage.output.pptx.drawingml import Box, P
from wornpage.tree.problem import PageError, near_miss

_POINT = 9525
_KINDS = {
    "title": ("title", r"first|title slide|titel(folie)?|page de titre|portada|cover|deckblatt"),
    "section": ("secHead", r"section|abschnitt|kapitel|chapter|divider|trenn"),
    "text": ("obj", r"content|text|inhalt|contenu|contenido|bullet"),
    "columns": ("twoObj", r"two|zwei|deux|dos |columns|spalten|2 "),
    "bare": ("titleOnly", r"title only|nur titel|titre seul|solo"),
    "blank": ("blank", r"blank|empty|leer|vide|blanco"),
}
"""By what a layout is for: the kind that the standard has for it, and words in its name where that is not said."""
_LIKE = {
    "text": ("tx", "objTx", "txAndObj"),
    "columns": ("twoColTx", "twoTxTwoObj"),
    "section": ("title",),
    "bare": ("obj", "tx"),
    "blank": ("titleOnly",),
}


class Holder(Struct, frozen=True):
    """A placeholder."""

    kind: str
    """`title`, `ctrTitle`, `subTitle`, `body`, `obj`, `pic`, `ftr`, `sldNum`, `dt` and so on."""
    number: str
    """As `idx` has it."""
    box: Box | None

    @property
    def is_text(self) -> bool:
        """Whether text or anything else may stand in it."""
        return self.kind in {"obj", "body"}


class Layout(Struct, frozen=True):
    """A layout."""

    part: str
    master: str
    name: str
    kind: str
    holders: tuple[Holder, ...]

    def first(self, *kinds: str) -> Holder | None:
        """Its first placeholder of one of these kinds."""
        return next((one for one in self.holders if one.kind in kinds), None)

    @property
    def texts(self) -> list[Holder]:
        """Placeholders for text, from the left."""
        found = [one for one in self.holders if one.is_text and one.box is not None]
        return sorted(found, key=lambda one: (one.box.x, one.box.y) if one.box else (0, 0))


class Template:
    """A presentation that others are made from."""

    def __init__(self, parts: dict[str, bytes], name: str, page: str, wished: Mapping[str, str]) -> None:
        """Raises `PageError` where it is none."""
        self.name, self._page, self.parts = name, page, parts
        self.main = next(self.led_to("", "officeDocument"), "")
        if not self.main:
            raise self.fault("is no presentation.")
        self.folder = posixpath.dirname(self.main)
        self.presentation = self.xml(self.main)
        if etree.QName(self.presentation).localname != "presentation":
            raise self.fault("is no presentation.")
        size = self.presentation.find(f"{{{P}}}sldSz")
        self.width, self.height = (
            (int(size.get(key)) / _POINT for key in ("cx", "cy")) if size is not None else (960.0, 720.0)
        )
        self.masters = list(self.led_to(self.main, "slideMaster"))
        bare = [master for master in self.masters if self._settle(master)]
        self.layouts = self._all_layouts()
        if not self.layouts:
            raise self.fault("has no layouts.", "Save it with at least one slide master.")
        self.by_use = self._by_use(wished)
        master = self.by_use["text"].master
        fill = settling.letters_colour(self.xml(master)) if master in bare else None
        self.ink = settling.digits(fill)
        """The colour of its letters in six digits, where its theme does not have it."""
        if fill is not None:
            settling.colour_other_text(self.presentation, fill)

    # --- reading ------------------------------------------------------------------------------------

    def fault(self, what: str, hint: str = "") -> PageError:
        """What is told of a template that cannot be used."""
        return template_fault(self.name, self._page, what, hint)

    def xml(self, name: str) -> Element:
        """A part. Raises `PageError`."""
        try:
            return parsed(self.parts[name])
        except KeyError:
            raise self.fault(f"is no presentation: it has no {name}.") from None
        except etree.XMLSyntaxError as error:
            raise self.fault(f"is damaged: {name}: {error}.") from None

    def leads(self, part: str) -> list[tuple[str, str, str]]:
        """Where a part leads to parts that are there: kind, part, id."""
        name = relations_of(part)
        found = leads_in(self.xml(name), part) if name in self.parts else ()
        return [lead for lead in found if lead[1] in self.parts]

    def led_to(self, part: str, kind: str) -> Iterator[str]:
        """The parts of a kind that a part leads to."""
        return (target for own, target, _ in self.leads(part) if own.endswith(f"/{kind}"))

    def _settle(self, master: str) -> bool:
        """Say what a master and its layouts leave to sample words; whether it was so."""
        root = self.xml(master)
        is_bare = settling.has_no_styles(root)
        if is_bare:
            settling.style_master(root)
            self.parts[master] = serialized(root)
        for name in self.led_to(master, "slideLayout"):
            layout = self.xml(name)
            is_changed = settling.number_holders(layout)
            if is_bare:
                settling.style_layout(layout, root)
            if is_bare or is_changed:
                self.parts[name] = serialized(layout)
        return is_bare

    def _all_layouts(self) -> list[Layout]:
        """The layouts of the first master first, each in the order of its master."""
        found = []
        for master in self.masters:
            root = self.xml(master)
            order = {key: target for kind, target, key in self.leads(master) if kind.endswith("/slideLayout")}
            ids = [one.get(f"{{{R}}}id") for one in root.iter(f"{{{P}}}sldLayoutId")]
            above = _holders(root)
            found += [self._layout(order[key], master, above) for key in ids if key in order]
        return found

    def _layout(self, part: str, master: str, above: list[Holder]) -> Layout:
        root = self.xml(part)
        held = root.find(f"{{{P}}}cSld")
        name = held.get("name", "") if held is not None else ""
        holders = tuple(
            one if one.box is not None else Holder(one.kind, one.number, _inherited(one, above))
            for one in _holders(root)
        )
        return Layout(part, master, name, root.get("type", ""), holders)

    def _by_use(self, wished: Mapping[str, str]) -> dict[str, Layout]:
        """The layout for each use: as wished by name, by its kind, by a word in its name, or the most like it."""
        made: dict[str, Layout] = {}
        names = [one.name for one in self.layouts]
        for use, (kind, words) in _KINDS.items():
            if name := wished.get(use, ""):
                chosen = next((one for one in self.layouts if one.name.strip().lower() == name.strip().lower()), None)
                if chosen is None:
                    raise self.fault(
                        f"has no layout {name!r}.", near_miss(name, names) or f"It has: {', '.join(names)}."
                    )
            else:
                layouts = self._in_order(use)
                chosen = next((one for one in layouts if one.kind == kind), None)
                chosen = chosen or next((one for one in layouts if re.search(words, one.name, re.IGNORECASE)), None)
                chosen = chosen or next(
                    (one for like in _LIKE.get(use, ()) for one in layouts if one.kind == like), None
                )
            made[use] = chosen or self._most_like(use)
        return made

    def _in_order(self, use: str) -> list[Layout]:
        """All layouts; first those of the master that its own first slide has for titles, its other slides for all else."""
        if len(self.masters) < 2:
            return self.layouts
        ids = self.presentation.iter(f"{{{P}}}sldId")
        slides = {key: target for kind, target, key in self.leads(self.main) if kind.endswith("/slide")}
        order = [slides[key] for one in ids if (key := one.get(f"{{{R}}}id", "")) in slides]
        masters = {one.part: one.master for one in self.layouts}
        used = [masters.get(layout, "") for one in order for layout in self.led_to(one, "slideLayout")]
        often = Counter(used[:1] if use == "title" else used[1:])
        return sorted(self.layouts, key=lambda one: -often[one.master])

    def _most_like(self, use: str) -> Layout:
        """A layout by the placeholders it has, where nothing says what it is for."""
        wanted = {"text": 1, "columns": 2}.get(use, 0)
        layouts = self._in_order(use)
        with_title = [one for one in layouts if one.first("title", "ctrTitle")] or layouts
        same = [one for one in with_title if len(one.texts) == wanted] or with_title
        return next((one for one in same if bool(one.first("subTitle")) == (use == "title")), same[0])

    # --- measures -----------------------------------------------------------------------------------

    def shape(self, usual: Shape) -> Shape:
        """The measures of its slides: those of the layout for text, and the sizes of its letters."""
        layout = self.by_use["text"]
        body = layout.texts[0].box if layout.texts else None
        title = layout.first("title", "ctrTitle")
        text, heading = self.sizes(usual)
        factor = text / usual.text
        if body is None:
            body = Box(self.width * 0.06, self.height * 0.22, self.width * 0.88, self.height * 0.66)
        top = title.box.y if title is not None and title.box is not None else self.height * 0.06
        side = (self.width - body.width) / 2
        room = heading * 1.15 + 20
        foot = self.height - top - room - body.height
        return Shape(
            round(self.width), round(self.height), round(side), round(top), round(foot), heading, text, usual.code * factor,
            usual.table * factor, usual.small * factor, usual.gap * factor,
        )  # fmt: skip

    @cached_property
    def says_sizes(self) -> bool:
        """Whether text has a size of its own; some programs write templates that leave it to each other's taste."""
        return self.sizes(Shape(0, 0, text=0.0))[0] > 0

    def sizes(self, usual: Shape) -> tuple[float, float]:
        """The size of text and of titles, in points of a screen: what the layout says, else its master."""
        layout = self.by_use["text"]
        master = self.xml(layout.master)
        found = []
        for kinds, style, otherwise in (
            ("obj body", "bodyStyle", usual.text),
            ("title ctrTitle", "titleStyle", usual.title),
        ):
            shapes = [*_shapes_of(self.xml(layout.part), kinds), *_shapes_of(master, kinds)]
            styles = [shape.find(f"{{{P}}}txBody/{{{A}}}lstStyle") for shape in shapes]
            styles.append(master.find(f"{{{P}}}txStyles/{{{P}}}{style}"))
            sizes = [size for one in styles if one is not None and (size := _first_size(one))]
            found.append(sizes[0] if sizes else otherwise)
        return found[0], found[1]


def _shapes_of(root: Element, kinds: str) -> list[Element]:
    """Shapes that are placeholders of one of these kinds."""
    found = []
    for shape in root.iter(f"{{{P}}}sp"):
        held = shape.find(f".//{{{P}}}nvPr/{{{P}}}ph")
        if held is not None and held.get("type", "obj") in kinds.split():
            found.append(shape)
    return found


def _first_size(style: Element) -> float:
    """The size of letters at the first level; 0 where it is not said."""
    letters = style.find(f"{{{A}}}lvl1pPr/{{{A}}}defRPr")
    size = letters.get("sz") if letters is not None else None
    return int(size) / 75 if size else 0.0


def _holders(root: Element) -> list[Holder]:
    found = []
    for shape in root.iter(f"{{{P}}}sp", f"{{{P}}}pic"):
        held = shape.find(f".//{{{P}}}nvPr/{{{P}}}ph")
        if held is not None:
            found.append(Holder(held.get("type", "obj"), held.get("idx", "0"), _box(shape)))
    return found


def _box(shape: Element) -> Box | None:
    place = shape.find(f"{{{P}}}spPr/{{{A}}}xfrm")
    if place is None:
        return None
    off, ext = place.find(f"{{{A}}}off"), place.find(f"{{{A}}}ext")
    if off is None or ext is None:
        return None
    return Box(*(int(value) / _POINT for value in (off.get("x"), off.get("y"), ext.get("cx"), ext.get("cy"))))


_SAME = {"ctrTitle": "title", "obj": "body", "subTitle": "body", "pic": "body", "chart": "body", "tbl": "body"}


def _inherited(holder: Holder, above: list[Holder]) -> Box | None:
    kind = _SAME.get(holder.kind, holder.kind)
    return next((one.box for one in above if _SAME.get(one.kind, one.kind) == kind), None)
