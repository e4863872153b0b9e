"""Colours by their names in CSS, and which letters can be read on them."""

from __future__ import annotations

NAMED = {
    "black": "#000000", "silver": "#c0c0c0", "gray": "#808080", "grey": "#808080", "white": "#ffffff", "maroon": "#800000",
    "red": "#ff0000", "purple": "#800080", "fuchsia": "#ff00ff", "green": "#008000", "lime": "#00ff00", "olive": "#808000",
    "yellow": "#ffff00", "navy": "#000080", "blue": "#0000ff", "teal": "#008080", "aqua": "#00ffff", "orange": "#ffa500",
    "brown": "#a52a2a", "beige": "#f5f5dc", "ivory": "#fffff0", "gold": "#ffd700", "pink": "#ffc0cb", "indigo": "#4b0082",
    "lavender": "#e6e6fa", "crimson": "#dc143c", "darkgreen": "#006400", "darkblue": "#00008b", "darkred": "#8b0000",
    "lightgray": "#d3d3d3", "lightgrey": "#d3d3d3", "lightblue": "#add8e6", "steelblue": "#4682b4", "slategray": "#708090",
}  # fmt: skip


def in_digits(colour: str) -> str:
    """A colour as `#` and six digits. Raises `ValueError` for none."""
    found = NAMED.get(colour.lower(), colour.lower())
    digits = found.removeprefix("#")
    if len(digits) == 3:
        digits = "".join(2 * digit for digit in digits)
    if not found.startswith("#") or len(digits) != 6 or any(digit not in "0123456789abcdef" for digit in digits):
        raise ValueError("write a colour such as `#1c5a63` or `teal`")
    return f"#{digits}"


def is_dark(colour: str) -> bool:
    """Whether light letters are easier to read on a colour than dark ones, by the contrast that WCAG 2 defines."""
    light = _luminance(in_digits(colour))
    return 1.05 / (light + 0.05) > (light + 0.05) / 0.05


def contrast(one: str, other: str) -> float:
    """How well letters of one colour can be read on another, from 1 to 21, as WCAG 2 defines it. Raises `ValueError`."""
    darker, lighter = sorted((_luminance(in_digits(one)), _luminance(in_digits(other))))
    return (lighter + 0.05) / (darker + 0.05)


def _luminance(colour: str) -> float:
    """As WCAG 2 has it, from 0 to 1."""
    parts = (int(colour[at : at + 2], 16) / 255 for at in (1, 3, 5))
    red, green, blue = (part / 12.92 if part <= 0.04045 else ((part + 0.055) / 1.055) ** 2.4 for part in parts)
    return 0.2126 * red + 0.7152 * green + 0.0722 * blue
