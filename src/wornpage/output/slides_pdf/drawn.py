"""What was drawn over a slide, as a picture."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from wornpage.output.deck.model import Shape


def as_picture(strokes: Iterable[dict[str, Any]], shape: Shape) -> bytes:
    """An SVG picture of the size of a slide."""
    lines = "".join(_line(stroke) for stroke in strokes)
    box = f"0 0 {shape.width} {shape.height}"
    return f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="{box}" fill="none" stroke-linecap="round" stroke-linejoin="round">{lines}</svg>'.encode()


def _line(stroke: dict[str, Any]) -> str:
    """A stroke: as wide as the pressure was on the whole; that of a marker lets through what lies below."""
    p = stroke["p"]
    places = list(zip(p[0::3], p[1::3], strict=True))
    if len(places) == 1:
        places *= 2
    pressure = sum(p[2::3]) / max(len(p) // 3, 1)
    is_marker = stroke["t"] == "marker"
    width = stroke["w"] if is_marker else stroke["w"] * (0.35 + 1.04 * pressure)
    path = "M" + "L".join(f"{x:g} {y:g}" for x, y in places)
    look = ' opacity="0.45"' if is_marker else ""
    return f'<path d="{path}" stroke="{stroke["c"]}" stroke-width="{width:.2f}"{look}/>'
