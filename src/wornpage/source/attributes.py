"""Attribute lists in braces, `{#label .class key=value}`, and what each kind of thing takes."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping

from wornpage.tree.colours import in_digits
from wornpage.tree.kinds import LENGTH, read_length, read_percentage
from wornpage.tree.nodes import Attributes
from wornpage.tree.problem import Problem, Severity, near_miss
from wornpage.tree.span import Span

ITEM = re.compile(r"\S*?=\"[^\"]*\"|\S*?='[^']*'|\S+")
PIXELS = re.compile(r"(\d+(?:\.\d+)?)\s*(?:px)?")
_CENTIMETRES = 2.54 / 96
"""Of a pixel, as browsers have it."""


def read_attributes(raw: str, span: Span, kind: str) -> tuple[Attributes, list[Problem]]:
    """A list as written, for something of a kind in `TAKES`, and warnings of what in it has no effect."""
    label, classes = "", []
    pairs: dict[str, str] = {}
    problems: list[Problem] = []
    for item in ITEM.finditer(raw.strip()[1:-1]):
        word, place = item[0], span.at(span.line, span.column + raw.index("{") + 1 + item.start())
        key, sign, value = word.partition("=")
        if word.startswith("#"):
            label = word[1:]
        elif word.startswith("."):
            classes.append(word[1:])
        elif fault := _fault(key, unquoted(value) if sign else None, kind):
            problems.append(Problem(place, *fault, Severity.WARNING))
        else:
            pairs[key] = unquoted(value)
    return Attributes(label, tuple(classes), tuple(pairs.items()), span), problems


def unquoted(value: str) -> str:
    """`value` without the quotation marks around it."""
    if len(value) > 1 and value[0] == value[-1] and value[0] in "\"'":
        return value[1:-1]
    return value


def in_centimetres(pixels: str) -> str:
    """A number of pixels, with or without `px`, as a length; empty for anything else."""
    match = PIXELS.fullmatch(pixels.strip())
    return f"{float(match[1]) * _CENTIMETRES:.4g}cm" if match else ""


def _fault(key: str, value: str | None, kind: str) -> tuple[str, str] | None:
    """What is wrong with an attribute, and a hint; None for nothing."""
    takes = TAKES[kind]
    if value is None or not key:
        return f"{key or '='!r} has no place in an attribute list.", f"Write `key=value` in one, `#{key}` or `.{key}`."
    if key not in takes:
        return f"{kind} take no {key!r}.", near_miss(key, takes) or f"They take {', '.join(takes)}."
    try:
        takes[key](value)
    except ValueError as fault:
        return f"{key!r} is not set: {fault}.", ""
    return None


# --- values -----------------------------------------------------------------------------------


def _size(value: str) -> None:
    if value.endswith("%"):
        read_percentage(value)
    elif LENGTH.match(value):
        read_length(value)
    else:
        about = f"; {value} as pixels is `{in_centimetres(value)}`" if in_centimetres(value) else ""
        raise ValueError(f"write a length such as `6cm`, or a share of the width such as `50%`{about}")


def _one_of(*words: str) -> Callable[[str], None]:
    def check(value: str) -> None:
        if value not in words:
            raise ValueError(f"write one of {', '.join(words)}")

    return check


def _shares(value: str) -> None:
    if not re.fullmatch(r"\d+(\.\d+)?%?([:,/ ]+\d+(\.\d+)?%?)*", value):
        raise ValueError("write shares such as `2:1`")


def _words(value: str) -> None:
    """Any will do."""


_PICTURE = re.compile(r".+\.(?:svg|png|jpe?g|gif|webp)", re.IGNORECASE)


def is_picture(value: str) -> bool:
    """Whether a background is a picture, and no colour."""
    return _PICTURE.fullmatch(value) is not None


def _background(value: str) -> None:
    if not is_picture(value):
        try:
            in_digits(value)
        except ValueError as fault:
            raise ValueError(f"{fault}, or the name of a picture such as `hall.jpg`") from None


_SLIDE: Mapping[str, Callable[[str], None]] = {
    "background": _background,
    "vertical": _one_of("top", "centre", "center", "bottom"),
    "title": _one_of("yes", "no"),
    "steps": _one_of("yes", "no"),
    "fit": _one_of("tell", "shrink"),
}
OF_SLIDES = tuple(_SLIDE)
"""What says how one slide looks: after its heading, or after `new slide`."""
TAKES: Mapping[str, Mapping[str, Callable[[str], None]]] = {
    "headings": {"number": _one_of("yes", "no"), "slide": _one_of("yes", "no"), **_SLIDE},
    "slides": _SLIDE,
    "blocks": {"steps": _one_of("yes", "no")},
    "images": {"width": _size, "height": _size, "align": _one_of("left", "right", "centre", "center"), "alt": _words},
    "boxes": {"widths": _shares},
}
"""What may be set for things of each kind, and what reads it: it raises `ValueError` with what to write."""
