"""What chunks ask for with `page`: each call becomes one thing shown."""

from __future__ import annotations

import sys
import time
from collections.abc import Iterable, Iterator, Sequence, Sized
from types import FrameType
from typing import TYPE_CHECKING, Any

from wornpage.session.python.values import scalar
from wornpage.tree.brackets import asked_in, quoted
from wornpage.tree.labelled import label_of

if TYPE_CHECKING:
    from wornpage.session.python.driver import Driver

_PAUSE = 0.1
"""Seconds between two tellings of how far a tally has come."""
_LEVELS = range(1, 7)


class Asked:
    """The end of `wornpage.page` inside a session."""

    def __init__(self, driver: Driver) -> None:
        self._driver = driver

    # --- tables -------------------------------------------------------------------------------

    def table(self, frame: object, caption: str, label: str, *, whole: bool, cell: str, **wanted: object) -> None:
        from wornpage.session.python.tables import table_of
        from wornpage.session.tabling import laid_out

        notes = wanted.pop("notes")
        table = laid_out(table_of(frame, whole or bool(cell)), self._told, notes=notes, **wanted)
        self._show_table({**table, "cell": cell} if cell else table, caption, label)

    def cell(self, place: str, value: object, form: str) -> None:
        from wornpage.tree.sheetcells import place_of

        place_of(place)  # raises `ValueError` for what is none
        self._driver.show({"kind": "cell", "place": place, "form": form, **scalar(value, "")})

    def summary(
        self, frame: object, caption: str, label: str, *, notes: object, decimals: object, heads: object, **wanted: Any
    ) -> None:
        from wornpage.session.python.statistics import summarised
        from wornpage.session.tabling import finished

        table = finished(summarised(frame, **wanted), self._told, notes=notes, decimals=decimals, heads=heads)
        self._show_table(table, caption, label)

    def crosstab(
        self,
        frame: object,
        rows: str,
        columns: str,
        caption: str,
        label: str,
        *,
        notes: object,
        decimals: object,
        **wanted: Any,
    ) -> None:
        from wornpage.session.python.statistics import crossed
        from wornpage.session.tabling import finished

        table = finished(crossed(frame, rows, columns, **wanted), self._told, notes=notes, decimals=decimals)
        self._show_table(table, caption, label)

    def model(
        self, fits: Sequence[object], caption: str, label: str, *, notes: object, terms: Any, names: Any, **wanted: Any
    ) -> None:
        from wornpage.session.fitted import fitted, level_of
        from wornpage.session.python.fits import read_fit
        from wornpage.session.tabling import finished

        heads = [self._told(name) for name in names] if names else None
        said = {name: self._told(words) for name, words in (terms or {}).items()}
        level = level_of(wanted["interval"])
        read = [read_fit(fit, level) for fit in fits]
        self._show_table(finished(fitted(read, heads, said, **wanted), self._told, notes=notes), caption, label)

    def _show_table(self, table: dict[str, object], caption: str, label: str) -> None:
        told = self._told(caption) if caption else None
        self._driver.show({"kind": "table", "table": {**table, "caption": told, "label": label_of(label)}})

    # --- figures and prose --------------------------------------------------------------------

    def figure(self, fig: object, caption: str, label: str, alt: str) -> None:
        from wornpage.session.python import figures

        pyplot = sys.modules.get("matplotlib.pyplot")
        found = getattr(fig, "figure", None) or fig  # axes know their figure
        if found is None and pyplot is not None and pyplot.get_fignums():
            found = pyplot.gcf()
        if found is None or not hasattr(found, "savefig"):
            raise ValueError("page.figure wants a Matplotlib figure, and there is none")
        told = self._told(caption) if caption else None
        figures.send_with_words(found, self._driver, told, label_of(label), alt)
        if pyplot is not None:
            pyplot.close(found)

    def prose(self, text: str) -> None:
        self._driver.show({"kind": "prose", "told": self._told(text)})

    def heading(self, text: str, level: int, label: str) -> None:
        if level not in _LEVELS:
            raise ValueError(f"a heading's level lies from 1 to 6, and this is {level!r}")
        self._driver.show({"kind": "heading", "told": self._told(text), "level": level, "label": label_of(label)})

    # --- help for the code itself -------------------------------------------------------------

    def rng(self) -> object:
        import numpy

        return numpy.random.default_rng()  # seeded from the chunk's own seed, each call anew

    def tally(self, items: Iterable[object], name: str) -> Iterator[object]:
        total = len(items) if isinstance(items, Sized) else 0
        told = 0.0
        for done, item in enumerate(items):
            if time.monotonic() - told > _PAUSE:
                told = time.monotonic()
                self._driver.send({"event": "tally", "name": name, "done": done, "total": total})
            yield item

    # --- words --------------------------------------------------------------------------------

    def _told(self, text: object) -> dict[str, object]:
        """Words of the author's with what their value marks come to here, in the scope of the code that calls."""
        text = str(text)
        return {"text": text, "answers": [self._answer(expression, form) for expression, form in asked_in(text)]}

    def _answer(self, expression: str, form: str) -> dict[str, object]:
        from wornpage.session.python.names import bring, names_in, run_eval

        frame, names = _calling_frame(), self._driver.tracker.names
        code = compile(expression, "a mark", "eval")
        local = (
            {name: frame.f_locals[name] for name in sorted(names_in(code)) if name in frame.f_locals} if frame else {}
        )
        if local:  # as names of a function, since code within the expression sees those alone
            code = compile(f"lambda {', '.join(local)}: ({expression}\n)", "a mark", "eval")
        bring(code, names)
        value = run_eval(code, names, {})
        if local:
            value = value(*local.values())
        return scalar(value, quoted(form))


def _calling_frame() -> FrameType | None:
    """The author's code that called `page`: the nearest frame that is not ours; None at the top of a chunk."""
    frame: FrameType | None = sys._getframe(1)
    while frame is not None and str(frame.f_globals.get("__name__", "")).startswith("wornpage."):
        frame = frame.f_back
    if frame is None or frame.f_locals is frame.f_globals:
        return None
    return frame
