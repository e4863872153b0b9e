"""Still pictures of figures that are made to be moved in a browser, as their libraries draw them: one function a library.

A library that needs a program or a package to draw itself may have none: then a browser is asked, if an output needs the picture.
"""

from __future__ import annotations

import sys
from collections.abc import Callable
from typing import Any, NamedTuple


class Still(NamedTuple):
    """A picture of an interactive figure."""

    data: bytes
    """SVG; empty where it cannot be drawn."""
    alt: str
    missing: str = ""
    """What would be needed to draw it; empty if it is drawn."""


def still_of(value: object) -> Still | None:
    """A picture of `value` if it is a figure of one of the libraries here, and what it is called in words."""
    for kind in type(value).__mro__:
        package = (kind.__module__ or "").partition(".")[0]
        name = f"{package}.{kind.__name__}"
        if name in _FIGURES and package in sys.modules:
            return _drawn(value, package, _FIGURES[name])
    return None


def _drawn(value: object, package: str, draw: Callable[[object], bytes]) -> Still:
    alt = _title(value) or f"An interactive figure made with {package}"
    try:
        return Still(draw(value), alt)
    except _InBrowsersAlone:
        return Still(b"", alt, f"{package} draws in browsers alone")
    except Exception as error:  # whatever a library has against drawing itself, the page goes on and says so
        needs = f"{package} needs the package `{_NEEDS.get(package, package)}` for it"
        why = needs if isinstance(error, ImportError) else f"{type(error).__name__}: {error}"
        return Still(b"", alt, " ".join(why.split())[:200])


class _InBrowsersAlone(Exception):
    pass


def _no_picture(figure: object) -> bytes:
    raise _InBrowsersAlone


def _altair(chart: Any) -> bytes:
    import vl_convert

    return str(vl_convert.vegalite_to_svg(chart.to_dict())).encode()


_FIGURES: dict[str, Callable[[object], bytes]] = {
    "plotly.BaseFigure": _no_picture,
    "altair.TopLevelMixin": _altair,
    "bokeh.LayoutDOM": _no_picture,
}
"""By the package and the class that all figures of a library have above them."""
_NEEDS = {"altair": "vl-convert-python"}


def _title(value: object) -> str:
    """The title of a figure, as far as it has one in words."""
    for path in (("layout", "title", "text"), ("title", "text"), ("title",)):
        found = value
        for name in path:
            found = getattr(found, name, None)
        if isinstance(found, str) and found.strip():
            return found.strip()[:200]
    return ""
