"""Figures that look like the page: its letters, sizes and colours, as the first state of Matplotlib's settings.

What stands in the page's ink is drawn in one colour that outputs know (`tree.look.INK`): in HTML it turns with the page into the dark.
"""

from __future__ import annotations

import os
from collections.abc import Iterable
from typing import Any

from wornpage.session.python import hooks
from wornpage.tree.look import COLOURS, INK, LINES

_FONTS = ("sans-regular.ttf", "sans-bold.ttf", "sans-italic.ttf")
_FAMILY = "Worn Sans"
SETTINGS: dict[str, object] = {
    "font.size": 9.0,
    "axes.titlesize": 10.0, "axes.labelsize": 9.0, "xtick.labelsize": 8.5, "ytick.labelsize": 8.5, "legend.fontsize": 8.5, "figure.titlesize": 11.0,
    "axes.titleweight": "bold", "axes.titlelocation": "left", "axes.titlepad": 8.0,
    "text.color": INK, "axes.labelcolor": INK, "axes.edgecolor": INK, "xtick.color": INK, "ytick.color": INK, "axes.titlecolor": INK,
    "boxplot.boxprops.color": INK, "boxplot.capprops.color": INK, "boxplot.flierprops.color": INK, "boxplot.flierprops.markeredgecolor": INK,
    "boxplot.whiskerprops.color": INK, "hatch.color": INK,
    "figure.facecolor": "none", "figure.edgecolor": "none", "axes.facecolor": "none", "legend.facecolor": "none", "legend.edgecolor": LINES, "legend.frameon": False,
    "axes.spines.top": False, "axes.spines.right": False, "axes.linewidth": 0.7, "xtick.major.width": 0.7, "ytick.major.width": 0.7, "grid.color": LINES, "grid.linewidth": 0.6,
    "axes.axisbelow": True, "lines.linewidth": 1.6, "lines.markersize": 5.0,
}  # fmt: skip
"""By name, where Matplotlib has it."""


def wear() -> None:
    """Let Matplotlib begin with the page's look, as soon as it is there."""
    hooks.after_import("matplotlib", _put_on)


def _put_on(matplotlib: Any) -> None:
    params = matplotlib.rcParams
    for name, value in SETTINGS.items():
        if name in params:
            params[name] = value
    from cycler import cycler

    params["axes.prop_cycle"] = cycler(color=list(COLOURS))
    params["font.family"] = ["sans-serif"]
    params["font.sans-serif"] = [_FAMILY, *params["font.sans-serif"]]
    hooks.after_import("matplotlib.font_manager", _bring_fonts)


def _bring_fonts(manager: Any) -> None:
    for path in _font_files():
        manager.fontManager.addfont(path)


def _font_files() -> Iterable[str]:
    folder = os.path.join(
        os.path.dirname(os.path.dirname(os.path.dirname(os.path.abspath(__file__)))), "output", "deck"
    )
    return [os.path.join(folder, name) for name in _FONTS]
