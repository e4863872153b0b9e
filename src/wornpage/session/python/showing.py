"""Show the value of a chunk's last expression in the best form it offers."""

from __future__ import annotations

import base64
import sys
from typing import TYPE_CHECKING, Any

from wornpage.session.python.frames import as_table
from wornpage.session.python.lively import Lively, Motion, lively, motion
from wornpage.session.python.steady import steady
from wornpage.session.python.stills import Still, still_of
from wornpage.session.python.values import called, formula_of, without_addresses, written
from wornpage.tree.files import as_utf8

if TYPE_CHECKING:
    from wornpage.session.python.driver import Driver

_MAX_TEXT = 2_000_000
_NO_FORM = "_repr_that_nothing_has_"
"""What pretends to have even this one (stand-ins made for tests do) has none of them."""


_DRAWING = ("matplotlib.", "mpl_toolkits.", "seaborn.")
_FIGURES = ("figure_", "ax_", "figure", "fig")
"""What objects that libraries make around a figure call it."""


def show_value(value: object, driver: Driver) -> None:
    """Send `value` as a figure, a table, a form of its own, or text; None and artists show nothing."""
    from wornpage.session.python import figures

    if (moving := motion(value)) is not None:
        _show_motion(moving, driver)
        return
    if value is None or _holds_artists(value):
        figures.show_if_figure(value, driver)
        return
    if (drawing := _drawing_of(value)) is not None:
        figures.show_if_figure(drawing, driver)
        return
    table = as_table(value)
    still = still_of(value) if table is None else None
    if still is not None:
        show_still(still, lively(value, driver.blobs.folder if driver.blobs else None), driver)
    elif table is not None:
        driver.show({"kind": "table", "table": table})
    elif not _show_own_form(value, driver):
        driver.show({"kind": "value", "text": written(value)[:_MAX_TEXT]})


def is_of_drawing(caller: str, value: object, names: dict[str, object]) -> bool:
    """Whether a plain value is what a call gave back that did something to a drawing, such as `ax.axis("off")`."""
    if not caller or not isinstance(value, (tuple, list, dict, str, int, float)):
        return False
    drawn = dict.get(names, caller)  # as it lies: asking for it in another way would count as the author's reading
    name = getattr(drawn, "__name__", "") if type(drawn).__name__ == "module" else ""
    return name.startswith(("matplotlib", "seaborn")) or (drawn is not None and _holds_artists(drawn))


def show_still(still: Still, alive: Lively | None, driver: Driver) -> None:
    """Send an interactive figure: its still picture, where the library can draw one, and what it is in a browser."""
    item: dict[str, object] = {"kind": "figure", "format": "svg", "width": 0, "height": 0, "alt": still.alt}
    if still.missing:
        item["undrawn"] = still.missing
    if alive is None:
        driver.show(item, still.data)
        return
    if still.missing:
        item |= {"width": alive.width / 96 * 2.54, "height": alive.height / 96 * 2.54}
    item["live"] = {"fits": alive.fits}
    driver.show(item, still.data, as_utf8(alive.html), *map(as_utf8, alive.scripts))


def _show_motion(moving: Motion, driver: Driver) -> None:
    """Send an animation: its pictures, and its last one drawn as any figure."""
    from wornpage.session.python import figures

    live: dict[str, object] = {"interval": moving.interval, "frames": True}
    figures.send_moving(moving.figure, driver, live, moving.frames)
    if moving.cut:
        driver.show(
            {"kind": "notice", "text": f"only the first {len(moving.frames)} pictures of this animation are kept\n"}
        )


def _holds_artists(value: Any, depth: int = 0) -> bool:
    """Whether `value` is something drawn, or holds such: its figure says it better."""
    if any((kind.__module__ or "").startswith(_DRAWING) for kind in type(value).__mro__):
        return True
    if depth > 2:
        return False
    if isinstance(value, dict):
        return bool(value) and any(_holds_artists(item, depth + 1) for item in list(value.values())[:4])
    if isinstance(value, (list, tuple)):
        return any(_holds_artists(item, depth + 1) for item in value[:4])
    if type(value).__name__ == "ndarray" and str(getattr(value, "dtype", "")) == "object" and value.size:
        return _holds_artists(value.flat[0], depth + 1)
    return depth == 0 and any(
        _holds_artists(vars(value).get(name), 2) for name in _FIGURES if hasattr(value, "__dict__")
    )


def _drawing_of(value: object) -> object:
    """The figure that a plan of one draws, such as a plot put together from layers; None for anything else."""
    if isinstance(value, type) or not hasattr(value, _BUNDLE) or hasattr(value, _NO_FORM):
        return None
    made = called(value, "draw") if "matplotlib" in sys.modules else None
    return made if made is not None and _holds_artists(made) else None


def _form_of(value: object) -> tuple[str, str | bytes]:
    """The best form that a value makes of itself, in a bundle of several or alone; empty for none."""
    bundle = called(value, _BUNDLE)
    bundle = bundle[0] if isinstance(bundle, tuple) and bundle else bundle
    for kind, (name, media) in _FORMS.items():
        made = (bundle.get(media) if isinstance(bundle, dict) else None) or called(value, name)
        if made and isinstance(made, (str, bytes)):
            return kind, made
    return "", ""


_BUNDLE = "_repr_mimebundle_"
_FORMS = {
    "svg": ("_repr_svg_", "image/svg+xml"),
    "png": ("_repr_png_", "image/png"),
    "html": ("_repr_html_", "text/html"),
    "markdown": ("_repr_markdown_", "text/markdown"),
}
"""What a value may offer: the method for each form, and what the form is called among several."""


def _show_own_form(value: object, driver: Driver) -> bool:
    """Send the formula, SVG, PNG, HTML or Markdown that `value` makes of itself; False if it makes none."""
    if isinstance(value, type) or hasattr(value, _NO_FORM):
        return False
    if formula := formula_of(value):
        driver.show({"kind": "formula", "latex": formula, "text": written(value)[:_MAX_TEXT]})
        return True
    kind, made = _form_of(value)
    if not kind:
        return False
    text = without_addresses(repr(value))[:_MAX_TEXT]
    if kind == "markdown":
        driver.show({"kind": "prose", "told": {"text": str(made).replace("{", "\\{"), "answers": []}})
    elif kind == "html":
        driver.show({"kind": "html", "text": text}, as_utf8(steady(str(made))))
    elif kind == "png" and isinstance(made, str):
        driver.show(_picture(kind, text), base64.b64decode(made))
    else:
        driver.show(_picture(kind, text), as_utf8(made) if isinstance(made, str) else made)
    return True


def _picture(kind: str, text: str) -> dict[str, object]:
    return {"kind": "figure", "format": kind, "width": 0, "height": 0, "alt": text}
