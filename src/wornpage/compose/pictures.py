"""Images the author names: files found, read, measured, and held in the tree."""

from __future__ import annotations

import base64
import re
import struct
from pathlib import Path
from urllib.parse import unquote

from wornpage.tree.files import file_bytes
from wornpage.tree.kinds import LENGTH, read_length, read_percentage
from wornpage.tree.nodes import Image, Picture
from wornpage.tree.problem import Problem, near_miss
from wornpage.tree.walk import words_of

_KINDS = {".svg": "svg", ".png": "png", ".jpg": "jpeg", ".jpeg": "jpeg", ".gif": "gif", ".webp": "webp"}
_DATA = re.compile(r"data:image/(svg\+xml|png|jpeg|gif|webp)(;base64)?,(.*)", re.DOTALL)
_SCREEN_DPI = 96
TEXT_WIDTH = 16.0
"""Centimetres: what `width=50%` is a share of."""


def picture(image: Image, folder: Path) -> tuple[Picture | None, Problem | None]:
    """The picture that `image` names, or what is wrong with it."""
    match = _DATA.match(image.source)
    if match:
        kind = match[1].removesuffix("+xml")
        try:
            data = base64.b64decode(unquote(match[3]), validate=False) if match[2] else unquote(match[3]).encode()
        except ValueError as error:
            what = f"the address of this image holds no picture: {error}."
            return None, Problem(image.span, what, "Save the picture beside the page and name that file.")
        return _sound(image, kind, data)
    if re.match(r"[a-z][a-z0-9+.-]*:", image.source):
        what = f"the image {image.source!r} lies elsewhere; a page holds all it shows."
        return None, Problem(image.span, what, "Save it beside the page and name that file.")
    path = folder / unquote(image.source)
    kind_or_none = _KINDS.get(path.suffix.lower())
    if kind_or_none is None:
        hint = f"Known: {', '.join(sorted(k[1:] for k in _KINDS))}."
        return None, Problem(image.span, f"{path.name!r} is no image of a known kind.", hint)
    try:
        return _sound(image, kind_or_none, file_bytes(path))
    except OSError as error:
        what = f"the image {image.source[:200]!r} cannot be read: {error.strerror}."
        return None, Problem(image.span, what, _near(path))


def _sound(image: Image, kind: str, data: bytes) -> tuple[Picture | None, Problem | None]:
    """The picture, unless its file is broken or of another kind than its name says."""
    fault = _fault(kind, data)
    if fault:
        return None, Problem(image.span, f"the image {image.source[:60]!r} {fault}.", "Save it anew.")
    return _measured(image, kind, data), None


_BEGINS = {"png": b"\x89PNG\r\n\x1a\n", "jpeg": b"\xff\xd8\xff", "gif": b"GIF8", "webp": b"RIFF"}
_ENDS = {"png": b"IEND", "jpeg": b"\xff\xd9"}


def _fault(kind: str, data: bytes) -> str:
    """What is wrong with the bytes of an image; empty if nothing is seen to be."""
    if kind == "svg":
        from xml.etree import ElementTree

        try:
            root = ElementTree.fromstring(data)
        except ElementTree.ParseError as error:
            line, column = error.position
            return f"is no well-formed drawing: {str(error).partition(':')[0]} (its line {line}, column {column + 1})"
        return "" if root.tag.rpartition("}")[2] == "svg" else f"is no drawing: it begins with <{root.tag}>"
    if not data.startswith(_BEGINS[kind]):
        really = next((name for name, start in _BEGINS.items() if data.startswith(start)), "")
        return f"is no {kind.upper()} but a {really.upper()}" if really else f"is no {kind.upper()}"
    return "is cut off" if _ENDS.get(kind, b"") not in data[-64_000:] else ""


def _near(path: Path) -> str:
    try:
        names = sorted(entry.name for entry in path.parent.iterdir() if entry.suffix.lower() in _KINDS)
    except (OSError, ValueError):
        return f"There is no folder {path.parent.name!r}."
    return near_miss(path.name, names)


def _measured(image: Image, kind: str, data: bytes) -> Picture:
    natural = natural_size(kind, data)
    width = _wanted(image.attributes.get("width"))
    height = _wanted(image.attributes.get("height"))
    if not width and not height:
        width, height = natural
    elif natural[0] and natural[1] and not (width and height):
        ratio = natural[1] / natural[0]
        width, height = (width, width * ratio) if width else (height / ratio, height)
    return Picture(kind, data, width, height, words_of(image.alt))


def _wanted(text: str) -> float:
    """Centimetres; 0 where nothing sensible is said."""
    if LENGTH.match(text):
        return read_length(text)
    return read_percentage(text) * TEXT_WIDTH if re.match(r"[\d.]+%$", text) else 0.0


def natural_size(kind: str, data: bytes) -> tuple[float, float]:
    """Width and height in centimetres at screen resolution; zeros where the file does not say."""
    pixels = {"png": _png, "gif": _gif, "jpeg": _jpeg, "svg": _svg}.get(kind, lambda _: (0.0, 0.0))(data)
    return pixels[0] / _SCREEN_DPI * 2.54, pixels[1] / _SCREEN_DPI * 2.54


def _png(data: bytes) -> tuple[float, float]:
    return struct.unpack(">II", data[16:24]) if len(data) > 24 else (0, 0)


def _gif(data: bytes) -> tuple[float, float]:
    return struct.unpack("<HH", data[6:10]) if len(data) > 10 else (0, 0)


def _jpeg(data: bytes) -> tuple[float, float]:
    """The size in the first start-of-frame segment (ITU-T T.81, B.2.2)."""
    at = 2
    while at + 9 < len(data) and data[at] == 0xFF:
        marker, length = data[at + 1], struct.unpack(">H", data[at + 2 : at + 4])[0]
        if 0xC0 <= marker <= 0xCF and marker not in {0xC4, 0xC8, 0xCC}:
            height, width = struct.unpack(">HH", data[at + 5 : at + 9])
            return width, height
        at += 2 + length
    return 0, 0


def _svg(data: bytes) -> tuple[float, float]:
    head = data[:4000].decode("utf-8", "replace")
    tag = re.search(r"<svg\b[^>]*>", head, re.DOTALL)
    if not tag:
        return 0, 0
    sizes = [re.search(rf'\b{name}="([\d.]+)(px|pt|cm|mm|in)?"', tag[0]) for name in ("width", "height")]
    factors = {None: 1, "px": 1, "pt": 96 / 72, "in": 96, "cm": 96 / 2.54, "mm": 9.6 / 2.54}
    if sizes[0] and sizes[1]:
        return float(sizes[0][1]) * factors[sizes[0][2]], float(sizes[1][1]) * factors[sizes[1][2]]
    box = re.search(r'viewBox="[-\d.]+[ ,]+[-\d.]+[ ,]+([\d.]+)[ ,]+([\d.]+)"', tag[0])
    return (float(box[1]), float(box[2])) if box else (0, 0)
