"""Save Matplotlib's open figures at their real size, with bytes that never change for the same drawing.

Matplotlib is never imported from here: where the chunk did not bring it in, there are no figures.
"""

from __future__ import annotations

import io
import sys
from collections.abc import Iterator
from types import ModuleType
from typing import TYPE_CHECKING, Any

from wornpage.session.python import hooks

if TYPE_CHECKING:
    from wornpage.session.python.driver import Driver
    from wornpage.session.python.fitting import Fitted

MAX_VERTICES = 20_000
"""Above this many drawn points an SVG is larger and slower than pixels; decided before drawing."""
_SETTINGS = {"svg.hashsalt": "worn", "svg.fonttype": "path", "path.simplify": True}
_NOTICED = 1.02
"""A figure that is drawn smaller than this much is told of."""
_hooked = False


def begin(driver: Driver) -> None:
    """Let `plt.show()` show what is open, at its place, once Matplotlib is there."""
    global _hooked
    if not _hooked:
        _hooked = True
        hooks.after_import("matplotlib.pyplot", lambda module: _take_over(module, driver))


def _take_over(pyplot: ModuleType, driver: Driver) -> None:
    def show(*arguments: object, **options: object) -> None:
        show_open(driver)

    import matplotlib

    matplotlib.rcParams["figure.max_open_warning"] = 0  # what a chunk leaves open is shown and closed at its end
    show.__doc__ = "Show all open figures here in the page."
    pyplot.show = show  # type: ignore[attr-defined]


def show_open(driver: Driver) -> None:
    """Send every open figure in the order they were made, and close them."""
    pyplot = sys.modules.get("matplotlib.pyplot")
    if pyplot is None:
        return
    for number in pyplot.get_fignums():
        figure = pyplot.figure(number)
        pyplot.close(figure)
        _send(figure, driver)


def show_open_after_error(driver: Driver) -> None:
    """What was drawn before the chunk failed; a figure that cannot be drawn is passed over."""
    try:
        show_open(driver)
    except Exception:
        end(driver)


def end(driver: Driver) -> None:
    """Close whatever is still open: no figure crosses a chunk's end."""
    pyplot = sys.modules.get("matplotlib.pyplot")
    if pyplot is not None:
        pyplot.close("all")


def show_if_figure(value: object, driver: Driver) -> None:
    """Send `value` if it is a figure that pyplot does not know of."""
    if type(value).__name__ == "Figure" and hasattr(value, "savefig"):
        pyplot = sys.modules.get("matplotlib.pyplot")
        known = [pyplot.figure(number) for number in pyplot.get_fignums()] if pyplot else []
        if value not in known:
            _send(value, driver)


def send_with_words(figure: object, driver: Driver, caption: object, label: str, alt: str) -> None:
    """Send a figure with a caption and a label of its own."""
    _send(figure, driver, {"caption": caption, "label": label}, alt)


def send_moving(figure: Any, driver: Driver, live: dict[str, object], frames: list[bytes]) -> None:
    """Send a figure as it stands, and the pictures that it went through; it is shown once."""
    pyplot = sys.modules.get("matplotlib.pyplot")
    if pyplot is not None:
        pyplot.close(figure)
    _send(figure, driver, {"live": live}, "", *frames)


def _send(figure: Any, driver: Driver, words: dict[str, object] | None = None, alt: str = "", *frames: bytes) -> None:
    if not figure.get_children() or not (figure.axes or figure.texts or figure.images or figure.lines):
        return
    _resize(figure, driver.options)
    kind = "png" if vertices(figure) > MAX_VERTICES else "svg"
    data, fitted = _save(figure, kind, driver.options["dpi"])
    width, height = (float(size) * 2.54 for size in _size(figure, fitted))
    asked = driver.options["width"] or driver.options["height"]
    factor = 1 / fitted.growth if asked else 1.0  # a size that was asked for holds, and all in it becomes smaller
    item = {"kind": "figure", "format": kind, "width": width * factor, "height": height * factor,
            "alt": alt or describe(figure)}  # fmt: skip
    if kind == "svg" and driver.look == "page":
        item["look"] = "page"
    if remark := _cramped(fitted, bool(asked)):
        item |= {"remark": f"is cramped: {remark}", "advice": "Give it more `width=` or `height=`."}
    driver.show(item | (words or {}), data, *frames)


def _size(figure: Any, fitted: Fitted) -> tuple[float, float]:
    """Inches of what is saved."""
    width, height = figure.get_size_inches()
    return (width, height) if fitted.part is None else (fitted.part.width, fitted.part.height)


def _cramped(fitted: Fitted, asked: bool) -> str:
    """What is said where a figure has too little room."""
    if fitted.problem and fitted.growth == 1.0:
        return "its parts have too little room beside each other"
    if asked and fitted.growth > _NOTICED:
        return f"its words need more room than it has, so it is drawn at {1 / fitted.growth:.0%} of its size"
    return ""


def _resize(figure: Any, options: dict[str, Any]) -> None:
    """Give the figure the size asked for; one length alone keeps the proportions."""
    width, height = figure.get_size_inches()
    ratio = height / width
    if options["width"] and options["height"]:
        width, height = options["width"] / 2.54, options["height"] / 2.54
    elif options["width"]:
        width, height = options["width"] / 2.54, options["width"] / 2.54 * ratio
    elif options["height"]:
        width, height = options["height"] / 2.54 / ratio, options["height"] / 2.54
    figure.set_size_inches(width, height)


def _save(figure: Any, kind: str, dpi: int) -> tuple[bytes, Fitted]:
    import matplotlib

    from wornpage.session.python.fitting import fit

    with matplotlib.rc_context(_SETTINGS):
        fitted = fit(figure)
        target = io.BytesIO()
        metadata = {"Date": None, "Creator": None} if kind == "svg" else {"Software": None}
        figure.savefig(target, format=kind, dpi=dpi, metadata=metadata, bbox_inches=fitted.part)
    return target.getvalue(), fitted


def vertices(figure: object) -> int:
    """How many points a vector drawing of the figure would hold; ticks are not counted, since asking makes them."""
    count = 0
    for artist in _drawn(figure):
        if hasattr(artist, "get_xdata"):
            count += len(artist.get_xdata(orig=False))
        elif hasattr(artist, "get_offsets") and hasattr(artist, "get_paths"):
            paths, offsets = artist.get_paths(), artist.get_offsets()
            points = sum(len(path.vertices) for path in paths)
            count += max(points, len(offsets))
    return count


def _drawn(figure: Any) -> Iterator[object]:
    """What stands in the figure and its axes, also in axes within axes."""
    yield from (*figure.lines, *figure.artists)
    todo = list(figure.axes)
    while todo:
        axes = todo.pop()
        yield from axes.get_children()
        todo += axes.child_axes


def describe(figure: Any) -> str:
    """A short account of a figure from its titles and axes, for those who cannot see it."""
    said = []
    for axes in figure.axes:
        title = axes.get_title() or axes.get_title(loc="left") or axes.get_title(loc="right")
        across, up = axes.get_xlabel(), axes.get_ylabel()
        words = f"{up} against {across}" if across and up else up or across
        if title or words:
            said.append(": ".join(part for part in (title, words) if part))
    return "; ".join(dict.fromkeys(said))
