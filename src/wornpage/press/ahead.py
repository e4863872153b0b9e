"""What composing and writing will need is imported while the first chunk runs: this process has nothing else to do then."""

from __future__ import annotations

import threading
from collections.abc import Sequence
from importlib import import_module

from wornpage.plan.record import ChunkOutcome, Reporter
from wornpage.settings.outputs import TABLE
from wornpage.tree.nodes import Chunk

_COMPOSING = ("babel.numbers", "babel.dates", "num2words", "pygments.lexers.python", "jinja2.ext", "fontTools.subset",
              "fontTools.ttLib.tables.otTables")  # fmt: skip
"""Large libraries that most pages come to."""


class Ahead:
    """Passes on what a walk tells, and begins to import when something runs."""

    def __init__(self, reporter: Reporter, outputs: Sequence[str]) -> None:
        self._reporter = reporter
        self._rooms = [*_COMPOSING, *(f"{TABLE[kind]}.writer" for kind in outputs if kind in TABLE)]
        self._begun = False

    def started(self, chunk: Chunk, number: int, total: int) -> None:
        """`chunk` begins to run."""
        if not self._begun:
            self._begun = True
            threading.Thread(target=_import_all, args=(self._rooms,), daemon=True).start()
        self._reporter.started(chunk, number, total)

    def tallied(self, chunk: Chunk, name: str, done: int, total: int) -> None:
        """It has come so far."""
        self._reporter.tallied(chunk, name, done, total)

    def finished(self, outcome: ChunkOutcome, number: int, total: int) -> None:
        """It has come to its end."""
        self._reporter.finished(outcome, number, total)


def _import_all(names: Sequence[str]) -> None:
    for name in names:
        try:
            import_module(name)
        except Exception:
            return  # whoever needs it will tell
