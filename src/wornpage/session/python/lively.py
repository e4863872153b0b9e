"""What figures are in a browser, one function a library: their data, what begins them, and the library's own script, from where it is installed.

Nothing in it may hang on what the session did before: running numbers are counted anew.
"""

from __future__ import annotations

import json
import os
import re
import sys
from collections.abc import Callable
from contextlib import suppress
from importlib import import_module
from typing import Any, NamedTuple

_MOST_FRAMES = 240
_VIEWS = re.compile(r'"((?:view|param|layer|concat|name)_)(\d+)(["_])')
_IDS = re.compile(r'("id"\s*:\s*")p(\d+)"')


class Lively(NamedTuple):
    """A figure that lives in a browser."""

    html: str
    scripts: tuple[str, ...]
    width: float
    """Pixels of a screen (96 to the inch), as of the still picture."""
    height: float
    fits: bool = False
    """Whether it takes the room that it is given."""


def lively(value: object, folder: str | None) -> Lively | None:
    """`value` for a browser, if it is a figure of one of the libraries here that can be had whole; None otherwise.

    `folder` is one in which a script may be kept that takes long to put together; None for none.
    """
    for kind in type(value).__mro__:
        package = (kind.__module__ or "").partition(".")[0]
        make = _LIBRARIES.get(f"{package}.{kind.__name__}")
        if make is not None and package in sys.modules:
            try:
                return make(value, folder)
            except Exception:  # whatever a library has against it: the still picture says so where that fails too
                return None
    return None


def _plotly(figure: Any, folder: str | None) -> Lively:
    script = import_module("plotly.offline").get_plotlyjs()
    data = _in_script(figure.to_json())
    layout = figure.layout
    begin = f'const drawn = {data}; drawn.config = {{responsive: true, displaylogo: false, displayModeBar: "still" in document.body.dataset ? false : "hover"}}; if (!drawn.layout.height) drawn.layout.autosize = true; Plotly.newPlot("drawn", drawn);'
    return Lively(_page(begin), (script,), layout.width or 700, layout.height or 450, fits=True)


def _altair(chart: Any, folder: str | None) -> Lively:
    maker = import_module("vl_convert")
    bundle = _kept(f"vl-convert-{maker.__version__}", maker.javascript_bundle, folder)
    spec = _counted(json.dumps(chart.to_dict()), _VIEWS)
    begin = f'vegaEmbed("#drawn", {_in_script(spec)}, {{actions: false, renderer: "svg"}});'
    return Lively(_page(begin), (bundle,), 0, 0)


def _bokeh(model: Any, folder: str | None) -> Lively:
    embed, bundling = import_module("bokeh.embed"), import_module("bokeh.embed.bundle")
    resources = import_module("bokeh.resources").INLINE
    scripts = tuple(bundling.bundle_for_objs_and_resources([model], resources).js_raw)
    item = json.dumps({key: part for key, part in embed.json_item(model, "drawn").items() if key != "version"})
    begin = f"Bokeh.embed.embed_item({_in_script(_numbered(item))});"
    return Lively(_page(begin), scripts, getattr(model, "width", None) or 600, getattr(model, "height", None) or 400)


_LIBRARIES: dict[str, Callable[[object, str | None], Lively]] = {
    "plotly.BaseFigure": _plotly,
    "altair.TopLevelMixin": _altair,
    "bokeh.LayoutDOM": _bokeh,
}
"""By the package and the class that all figures of a library have above them."""


def _kept(name: str, make: Callable[[], str], folder: str | None) -> str:
    """A script that takes seconds to put together, kept beside what is kept of the page."""
    path = os.path.join(folder, os.pardir, "scripts", f"{name}.js") if folder else ""
    try:
        with open(path, encoding="utf-8") as file:
            return file.read()
    except OSError:
        made = make()
    if path:
        with suppress(OSError):
            os.makedirs(os.path.dirname(path), exist_ok=True)
            with open(f"{path}.{os.getpid()}.part", "w", encoding="utf-8") as file:
                file.write(made)
            os.replace(f"{path}.{os.getpid()}.part", path)
    return made


def _page(begin: str) -> str:
    return f'<div id="drawn"></div><script>{begin}</script>'


def _in_script(data: str) -> str:
    """Data as it may stand in a script."""
    return (
        data.replace("</", "<\\/").replace("<!--", "<\\!--").replace("\u2028", "\\u2028").replace("\u2029", "\\u2029")
    )


def _counted(text: str, names: re.Pattern[str]) -> str:
    """Names that end in running numbers, numbered from 1 as they come."""
    seen: dict[str, dict[str, str]] = {}

    def put(match: re.Match[str]) -> str:
        numbers = seen.setdefault(match[1], {})
        return f'"{match[1]}{numbers.setdefault(match[2], str(len(numbers) + 1))}{match[3]}'

    return names.sub(put, text)


def _numbered(text: str) -> str:
    """The same for identifiers that other parts refer to; only where they stand as such."""
    numbers: dict[str, str] = {}

    def put(match: re.Match[str]) -> str:
        return f'{match[1]}p{numbers.setdefault(match[2], str(len(numbers) + 1))}"'

    text = _IDS.sub(put, text)
    return re.sub(r'("root_id"\s*:\s*")p(\d+)"', put, text)


# --- pictures that follow one another -------------------------------------------------------------


class Motion(NamedTuple):
    """An animation, drawn."""

    frames: list[bytes]
    """PNG."""
    interval: float
    """Seconds."""
    cut: bool
    """Whether there were more than are kept."""
    figure: Any


def motion(value: Any) -> Motion | None:
    """The pictures of an animation of Matplotlib; None for anything else."""
    if not any(
        f"{kind.__module__}.{kind.__name__}" == "matplotlib.animation.Animation" for kind in type(value).__mro__
    ):
        return None
    import io

    import matplotlib.animation

    frames: list[bytes] = []
    cut = False

    class Gather(matplotlib.animation.AbstractMovieWriter):
        """Keeps each picture."""

        def setup(self, fig: Any, outfile: Any, dpi: Any = None) -> None:
            self.fig, self.outfile, self.dpi = fig, outfile, dpi

        def grab_frame(self, **options: Any) -> None:
            nonlocal cut
            if len(frames) >= _MOST_FRAMES:
                cut = True
                return
            target = io.BytesIO()
            self.fig.savefig(target, format="png", dpi=110, metadata={"Software": None})
            frames.append(target.getvalue())

        def finish(self) -> None:
            """Nothing to do."""

    value.save("frames", writer=Gather(fps=5))
    return Motion(frames, float(getattr(value, "_interval", 200)) / 1000, cut, value._fig)
