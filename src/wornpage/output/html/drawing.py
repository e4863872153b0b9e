"""SVG drawings made fit to stand inside a page: parsed, and written anew from what is allowed, with ids of their own."""

from __future__ import annotations

import base64
import re
from html import escape
from xml.parsers import expat

from wornpage.output.html import allowed
from wornpage.store.blocks import BlockCache
from wornpage.tree.look import INK, LINES
from wornpage.tree.nodes import Picture

_MIME = {"svg": "image/svg+xml", "png": "image/png", "jpeg": "image/jpeg", "gif": "image/gif", "webp": "image/webp"}
_PLAIN_STYLE = "*{stroke-linejoin: round; stroke-linecap: butt}"
"""The style sheet that Matplotlib puts into its drawings."""
_SVG, _XLINK, _XML = (
    "http://www.w3.org/2000/svg",
    "http://www.w3.org/1999/xlink",
    "http://www.w3.org/XML/1998/namespace",
)
_LOCAL_URL = re.compile(r"(url\(\s*['\"]?#)")
_EMPTY_DEFS = re.compile(r"\s*<defs>\s*</defs>")
_PREFIX = "\ue000"
"""Stands for the number of the drawing in its ids: kept results are used for any number. No drawing has this letter."""
_kept = BlockCache("drawings")


class NotAllowed(Exception):
    """A drawing that holds what only a file of its own may hold."""


def drawing(picture: Picture, number: int) -> str:
    """An `<svg>` or `<img>` element for `picture`, the `number`th of the page."""
    if picture.format == "svg":
        inline = _inline(picture, number)
        if inline:
            return inline
    data = base64.b64encode(picture.data).decode()
    return f'<img src="data:{_MIME[picture.format]};base64,{data}" alt="{escape(picture.alt)}"{_size(picture)}>'


def inner_drawing(picture: Picture) -> str:
    """An SVG picture as an element that stands by itself; empty if it holds what is not allowed."""
    return _inline(picture, 1)


def _size(picture: Picture) -> str:
    return f' style="width:{picture.width:.4g}cm"' if picture.width else ""


def _inline(picture: Picture, number: int) -> str:
    """The drawing as an element of the page; empty if it must stay a file of its own."""
    text = picture.data.decode("utf-8", "replace")
    made = _kept.get(text)
    if made is None:
        try:
            made = list(_Reader().read(picture.data))
        except (NotAllowed, expat.ExpatError, UnicodeError, LookupError):
            made = []
        _kept.put(made, text)
    if not made:
        return ""
    box, body, plain = made
    look = "stroke-linejoin:round;stroke-linecap:butt" if plain else ""
    width = f"width:{picture.width:.4g}cm" if picture.width else ""
    style = ";".join(part for part in (width, look) if part)
    kind = ""
    if picture.look == "page":
        body, kind = _in_page_colours(body), ' class="page-look"'
    return (
        f'<svg{kind} xmlns="{_SVG}" viewBox="{escape(box)}" role="img" aria-label="{escape(picture.alt)}"'
        f' style="{style}">{body.replace(_PREFIX, f"d{number}-")}</svg>'
    )


_SHARES = re.compile(r"rgb\(([\d.]+)%,\s*([\d.]+)%,\s*([\d.]+)%\)")
"""A colour as other programs that draw write it."""


def _as_hex(match: re.Match[str]) -> str:
    return "#" + "".join(f"{round(float(share) * 2.55):02x}" for share in match.groups())


def _in_page_colours(body: str) -> str:
    """A drawing whose ink and thin lines are those of the page that it stands in."""
    body = _SHARES.sub(_as_hex, body)
    for colour, name in ((INK, "ink"), ("#000000", "ink"), (LINES, "hair")):
        body = re.sub(rf'(?<=[:"\s]){colour}(?=[;"\s])', f"var(--{name},{colour})", body)
    return body


class _Reader:
    """Reads a drawing and writes what is allowed of it; raises `NotAllowed` where it has more."""

    def __init__(self) -> None:
        self.out: list[str] = []
        self.box = ""
        self.plain = False
        self.depth = 0
        self.left_out = 0
        """How deep within an element that is left out with all it holds."""
        self.style: list[str] | None = None
        """What a style sheet says, while one is read."""
        self.used: set[str] = set()

    def read(self, data: bytes) -> tuple[str, str, bool]:
        """The drawing's box, its body, and whether Matplotlib's style sheet holds for it."""
        if _PREFIX.encode() in data:
            raise NotAllowed
        parser = expat.ParserCreate(namespace_separator=" ")
        parser.buffer_text = True
        parser.StartElementHandler, parser.EndElementHandler = self.start, self.end
        parser.CharacterDataHandler = self.text
        parser.EntityDeclHandler = self.refuse
        parser.Parse(data, True)
        if not self.box:
            raise NotAllowed
        body = "".join(self.out)
        unused = re.compile(f' id="{_PREFIX}([^"]*)"')
        body = unused.sub(lambda match: match[0] if match[1] in self.used else "", body)
        return self.box, _EMPTY_DEFS.sub("", body).strip(), self.plain

    def refuse(self, *declared: object) -> None:
        """Entities make text of something else than what is read here."""
        raise NotAllowed

    def start(self, name: str, attributes: dict[str, str]) -> None:
        space, _, local = name.rpartition(" ")
        if self.left_out or local in allowed.LEFT_OUT_OF_DRAWINGS or space not in {_SVG, ""}:
            self.left_out += 1  # also elements of editors' own, which no browser draws
            if "xhtml" in space:
                raise NotAllowed
            return
        self.depth += 1
        if self.depth == 1:
            if local != "svg":
                raise NotAllowed
            self.box = attributes.get("viewBox", "")
            self._attributes(local, attributes)
            return
        if local == "style":
            self.style = []
            return
        if local not in allowed.DRAWING_ELEMENTS or self.style is not None:
            raise NotAllowed
        if local == "path" and "d" not in attributes:
            attributes = {"d": "M0 0", **attributes}  # Matplotlib's empty glyphs
        self.out.append(f"<{local}{self._attributes(local, attributes)}>")

    def end(self, name: str) -> None:
        if self.left_out:
            self.left_out -= 1
            return
        self.depth -= 1
        if self.style is not None:
            if "".join(self.style).strip() != _PLAIN_STYLE:
                raise NotAllowed
            self.style, self.plain = None, True
        elif self.depth:
            local = name.rpartition(" ")[2]
            if re.match(rf"<{local}[ >]", self.out[-1]):
                self.out[-1] = f"{self.out[-1][:-1]}/>"  # nothing stands in it
            else:
                self.out.append(f"</{local}>")

    def text(self, data: str) -> None:
        if self.style is not None:
            self.style.append(data)
        elif not self.left_out and self.depth > 1:
            self.out.append(escape(data, quote=False))

    def _attributes(self, element: str, attributes: dict[str, str]) -> str:
        found = []
        for full, value in attributes.items():
            space, _, name = full.rpartition(" ")
            if (
                space not in {"", _XLINK, _XML}
                or name in allowed.DROPPED_ATTRIBUTES
                or name.startswith(("aria-", "data-"))
            ):
                continue
            if space == _XLINK and name != "href":
                continue
            made = self._value(element, name, value)
            if made:
                found.append(f' {name}="{escape(made)}"')
        return "".join(found)

    def _value(self, element: str, name: str, value: str) -> str:
        """The value of an attribute, made fit. Raises `NotAllowed`."""
        if name not in allowed.DRAWING_ATTRIBUTES or not allowed.is_local(value):
            raise NotAllowed
        if name == "href":
            if value.startswith("#"):
                self.used.add(value[1:])
                return f"#{_PREFIX}{value[1:]}"
            if element == "image" and allowed.is_picture(value):
                return value
            raise NotAllowed
        if name == "id":
            return _PREFIX + value
        if name == "style":
            style = allowed.safe_style(value)
            if style is None:
                raise NotAllowed
            value = style
        self.used.update(re.findall(r"url\(\s*['\"]?#([^'\")\s]+)", value))
        return _LOCAL_URL.sub(rf"\1{_PREFIX}", value)
