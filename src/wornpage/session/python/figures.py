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

MAX_VERTICES = 20_000
"""Above this many drawn points an SVG is larger and slower than pixels; decided before drawing."""
_SETTINGS = {"svg.hashsalt": "worn", "svg.fonttype": "path", "path.simplify": True}
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


def show_if_figure(value: Any, driver: Driver) -> None:
    """Send `value` if it is a figure that pyplot does not know of."""
    if type(value).__name__ == "Figure" and hasattr(value, "savefig"):
        pyplot = sys.modules.get("matplotlib.pyplot")
        known = [pyplot.figure(number) for number in pyplot.get_fignums()] if pyplot else []
        if value not in known:
            _send(value, driver)


def send_with_words(figure: Any, driver: Driver, caption: Any, label: str, alt: str) -> None:
    """Send a figure with a caption and a label of its own."""
    _send(figure, driver, {"caption": caption, "label": label}, alt)


def _send(figure: Any, driver: Driver, words: dict[str, Any] | None = None, alt: str = "") -> None:
    if not figure.get_children() or not (figure.axes or figure.texts or figure.images or figure.lines):
        return
    _resize(figure, driver.options)
    kind = "png" if vertices(figure) > MAX_VERTICES else "svg"
    width, height = (float(size) * 2.54 for size in figure.get_size_inches())
    item = {"kind": "figure", "format": kind, "width": width, "height": height, "alt": alt or describe(figure)}
    driver.show(item | (words or {}), _save(figure, kind, driver.options["dpi"]))


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


def _save(figure: Any, kind: str, dpi: int) -> bytes:
    import matplotlib

    with matplotlib.rc_context(_SETTINGS):
        if figure.get_layout_engine() is None and _untouched(figure):
            figure.set_layout_engine("constrained")  # so that no label is cut off at the edge
        target = io.BytesIO()
        metadata = {"Date": None, "Creator": None} if kind == "svg" else {"Software": None}
        figure.savefig(target, format=kind, dpi=dpi, metadata=metadata, bbox_inches=None)
    return target.getvalue()


def _untouched(figure: Any) -> bool:
    """Whether the author left the margins to Matplotlib."""
    import matplotlib

    set_by_hand = figure.subplotpars
    return all(
        getattr(set_by_hand, side) == matplotlib.rcParams[f"figure.subplot.{side}"]
        for side in ("left", "right", "top", "bottom", "wspace", "hspace")
    )


def vertices(figure: Any) -> int:
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


def _drawn(figure: Any) -> Iterator[Any]:
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
