"""Fit a Matplotlib figure onto its canvas: nothing is cut at an edge, and no layout is forced upon what would break.

A figure whose author or library has seen to its margins stays as it is. Otherwise an engine that suits it is tried
and taken back if it fails. What still stands over the edge makes the canvas larger, and that is told.
"""

from __future__ import annotations

import logging
import warnings
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import TYPE_CHECKING, Any, NamedTuple

if TYPE_CHECKING:
    from matplotlib.figure import Figure
    from matplotlib.transforms import Bbox

_SLACK = 0.02
"""Inches by which something may stand over the edge: hairs of letters and lines."""
_MOST = 3.0
"""How many times as wide or as high the canvas may become; what lies farther out is out of the picture."""


class Fitted(NamedTuple):
    """What of a figure is to be saved."""

    part: Bbox | None
    """In inches, where it is more than the canvas; None for the canvas."""
    growth: float
    """How much larger than the canvas that is, in the direction where it is most."""
    problem: str
    """What the layout engine had against it; empty for nothing."""


def fit(figure: Figure) -> Fitted:
    """Give `figure` margins that hold its words, as far as it leaves that to us."""
    problem = ""
    _let_lay_out(figure)
    if figure.get_layout_engine() is None and (_is_untouched(figure) or _beyond(figure) is not None):
        problem = _try(figure, _tight if _has_colour_bars(figure) else _constrained)
    part = _beyond(figure)
    if part is None:
        return Fitted(None, 1.0, problem)
    width, height = figure.get_size_inches()
    return Fitted(part, max(part.width / width, part.height / height), problem)


def _let_lay_out(figure: Figure) -> None:
    """Let the engine of the author or the library do its work, which decides what stands where."""
    engine = figure.get_layout_engine()
    if engine is None:
        return
    try:
        with _heard():
            engine.execute(figure)
    except Exception:
        return  # the drawing itself will tell


def _is_untouched(figure: Figure) -> bool:
    """Whether the author left the margins to Matplotlib; those that cut words hold no longer."""
    import matplotlib

    set_by_hand = figure.subplotpars
    settings: Any = matplotlib.rcParams  # asked for these alone: which settings are read is noted
    return all(
        getattr(set_by_hand, side) == settings[f"figure.subplot.{side}"]
        for side in ("left", "right", "top", "bottom", "wspace", "hspace")
    )


def _has_colour_bars(figure: Figure) -> bool:
    """Whether axes were made for colour bars: those were placed by one engine, and no other can move them."""
    return any(hasattr(axes, "_colorbar") or hasattr(axes, "_colorbar_info") for axes in figure.get_axes())


def _constrained(figure: Figure) -> None:
    figure.set_layout_engine("constrained")
    engine = figure.get_layout_engine()
    if engine is not None:
        engine.execute(figure)


def _tight(figure: Figure) -> None:
    figure.tight_layout()


def _try(figure: Figure, lay_out: Callable[[Figure], None]) -> str:
    """Lay the figure out; if that fails it stands as before, and what was wrong is told."""
    places = [(axes, axes.get_position(original=True), axes.get_position()) for axes in figure.get_axes()]
    problem = ""
    with _heard() as said:
        try:
            lay_out(figure)
        except Exception as error:
            problem = str(error) or type(error).__name__
    spoken = [str(one.message) for one in said if issubclass(one.category, UserWarning)]
    refused = [words for words in spoken if "not applied" in words or "not compatible" in words or "collapsed" in words]
    figure.set_layout_engine("none")  # what was laid out once stays so, and says nothing again when it is saved
    if not problem and not refused:
        return ""
    for axes, original, active in places:
        axes.set_position(original, which="original")
        axes.set_position(active, which="active")
    return problem or refused[0]


@contextmanager
def _heard() -> Iterator[list[warnings.WarningMessage]]:
    """What is said meanwhile is kept from the page: the drawing itself says it once more."""
    disabled = logging.root.manager.disable
    logging.disable(logging.WARNING)
    try:
        with warnings.catch_warnings(record=True) as said:
            warnings.simplefilter("always")
            yield said
    finally:
        logging.disable(disabled)


def _beyond(figure: Figure) -> Bbox | None:
    """What is drawn, with the canvas, if something stands over the edge; None if all stands on the canvas."""
    from matplotlib.transforms import Bbox

    try:
        with _heard():
            drawn = figure.get_tightbbox()
    except Exception:
        return None  # the drawing itself will tell
    width, height = figure.get_size_inches()
    sides = (drawn.x0, drawn.y0, drawn.x1 - width, drawn.y1 - height)
    if not all(map(_is_finite, sides)) or (min(sides[:2]) >= -_SLACK and max(sides[2:]) <= _SLACK):
        return None
    room_x, room_y = (_MOST - 1) * width, (_MOST - 1) * height
    left, bottom = min(drawn.x0 - 0.04, 0.0), min(drawn.y0 - 0.04, 0.0)
    right, top = max(drawn.x1 + 0.04, width), max(drawn.y1 + 0.04, height)
    if left < -room_x or right > width + room_x or bottom < -room_y or top > height + room_y:
        return None
    return Bbox.from_extents(left if drawn.x0 < -_SLACK else 0.0, bottom if drawn.y0 < -_SLACK else 0.0,
                             right if drawn.x1 > width + _SLACK else width, top if drawn.y1 > height + _SLACK else height)  # fmt: skip


def _is_finite(number: float) -> bool:
    return -1e6 < number < 1e6
