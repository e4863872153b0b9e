"""What was drawn on slides, as their pen saves it: read, checked, and put into the file again."""

from __future__ import annotations

import json
import re
from pathlib import Path
from typing import Any

from wornpage.output.deck.model import Deck
from wornpage.tree.files import file_text
from wornpage.tree.problem import Problem, Severity
from wornpage.tree.span import Span

_COLOUR = re.compile(r"#[0-9a-f]{6}")
_TOOLS = ("pen", "marker")
_MOST_NUMBERS = 3_000_000
"""Of all strokes: about a million places, more than a day of drawing."""


def drawn_in(folder: Path, name: str, deck: Deck) -> tuple[str, list[Problem]]:
    """The strokes of a file as JSON fit to stand in HTML, and what is wrong with it; an empty object where there is none."""
    if not name:
        return "{}", []
    try:
        found = json.loads(file_text(folder / name))
        slides = {str(key): strokes_in(strokes) for key, strokes in found["slides"].items()}
        boards = [strokes_in(strokes) for strokes in found.get("boards", [])]
    except (OSError, ValueError, KeyError, TypeError, AttributeError):
        what = f"{name!r} holds no drawing that slides have saved."
        return "{}", [Problem(Span(name, 1), what, "Draw on the slides, and save with their pen's tools.")]
    count = sum(len(one["p"]) for strokes in (*slides.values(), *boards) for one in strokes)
    if count > _MOST_NUMBERS:
        return "{}", [Problem(Span(name, 1), f"{name!r} holds {count:,} numbers, more than a page can show.")]
    known = {slide.label for slide in deck.slides}
    lost = [key for key in slides if key not in known]
    problems = [
        Problem(Span(name, 1), f"something is drawn on {key!r}, which is no slide any more.", severity=Severity.WARNING)
        for key in lost
    ]
    made = {"slides": {key: strokes for key, strokes in slides.items() if strokes}, "boards": boards}
    return json.dumps(made, separators=(",", ":"), sort_keys=True).replace("<", "\\u003c"), problems


def strokes_in(found: Any) -> list[dict[str, Any]]:
    """Several, checked; raises as `stroke_in`."""
    return [stroke_in(one) for one in found]


def stroke_in(found: Any) -> dict[str, Any]:
    """One stroke: a tool, a colour, a width, and places with the pressure at each.

    Raises `ValueError`, `TypeError`, `KeyError` or `AttributeError` for anything else.
    """
    tool, colour, width, places = found["t"], found["c"], float(found["w"]), found["p"]
    numbers = [round(float(one), 2) for one in places]
    if tool not in _TOOLS or not _COLOUR.fullmatch(colour) or not 0 < width < 200 or len(numbers) % 3:
        raise ValueError(found)
    if any(not -10_000 < one < 10_000 for one in numbers):
        raise ValueError(found)
    return {"t": tool, "c": colour, "w": width, "p": numbers}
