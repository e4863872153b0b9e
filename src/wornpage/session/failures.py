"""A chunk's failure in words: the user's traceback in page lines, and what was probably meant."""

from __future__ import annotations

import builtins
import re
from collections.abc import Mapping

from msgspec import Struct

from wornpage.session.bindings import names_written
from wornpage.session.languages import language_of
from wornpage.session.results import Failure, Frame, Raised
from wornpage.tree.nodes import Chunk
from wornpage.tree.problem import Problem, near_miss
from wornpage.tree.span import Span

PACKAGES = {
    "pd": "import pandas as pd", "np": "import numpy as np", "plt": "import matplotlib.pyplot as plt",
    "sns": "import seaborn as sns", "sm": "import statsmodels.api as sm", "smf": "import statsmodels.formula.api as smf",
    "pl": "import polars as pl", "sp": "import scipy as sp", "stats": "from scipy import stats",
    "mpl": "import matplotlib as mpl", "tf": "import tensorflow as tf", "xr": "import xarray as xr",
    "nx": "import networkx as nx", "dt": "import datetime as dt", "alt": "import altair as alt",
    "Path": "from pathlib import Path", "Counter": "from collections import Counter",
    "defaultdict": "from collections import defaultdict", "dataclass": "from dataclasses import dataclass",
    "partial": "from functools import partial", "datetime": "from datetime import datetime",
    "timedelta": "from datetime import timedelta", "date": "from datetime import date",
}  # fmt: skip
"""What people call well-known things, and how they come in."""
_MODULES = (
    "pandas numpy matplotlib scipy seaborn statsmodels polars pyarrow sklearn math random os sys re json csv io time "
    "datetime itertools functools collections pathlib statistics string textwrap warnings logging decimal fractions"
).split()
_MAX_SHOWN = 12
_LINE = re.compile(r"(on line |at line |\(<unknown>, line )(\d+)(\)?)")


class Places(Struct, frozen=True):
    """Where each chunk's code begins."""

    page: str
    """What the page is called."""
    chunks: Mapping[str, Chunk]
    published: bool = False
    """Whether readers see it: then inserted files are called as from the page, wherever it was pressed from."""

    def of(self, frame: Frame) -> Span | None:
        """The place in the page of a frame inside a chunk; None for any other frame."""
        chunk = self.chunks.get(frame.file.removeprefix("chunk:")) if frame.file.startswith("chunk:") else None
        if chunk is None:
            return None
        if chunk.binds:
            return chunk.span
        column = frame.column + chunk.indent if frame.column else 1
        file = self.page
        if chunk.home:
            file = chunk.home.rpartition("#")[0] if self.published else chunk.span.file
        return Span(file, chunk.code_line + max(frame.line, 1) - 1, column, within=chunk.span.within)


def chunk_problem(failure: Failure, chunk: Chunk, places: Places) -> Problem:
    """The failure of `chunk` as a problem at the line of the page that raised it."""
    last = failure.last
    inside = [span for frame in last.frames if (span := places.of(frame))]
    # The innermost line of this chunk, not of a helper defined further up.
    own = [span for frame in last.frames if frame.file == f"chunk:{chunk.label}" and (span := places.of(frame))]
    span = (own or inside or [chunk.span])[-1]
    what = f"in chunk `{chunk.label}`: {_in_page_lines(_headline(failure), chunk)}"
    return Problem(span, what, _hint(failure, chunk, places), detail=_detail(failure, places))


def mark_problem(failure: Failure, expression: str, span: Span, places: Places) -> Problem:
    """The failure of the value mark at `span`."""
    what = f"the value mark `{expression}` fails: {_headline(failure)}"
    return Problem(span, what, _hint(failure, None, places, span.line))


def page_traceback(failure: Failure, places: Places) -> str:
    """The traceback as shown in a page with `on-error=show`: no paths of this machine."""
    return "\n".join(line for raised in failure.chain for line in _lines_of(raised, places))


def _headline(failure: Failure) -> str:
    last = failure.last
    if failure.kind == "SystemExit":
        with_status = f" with {failure.status!r}" if failure.status not in {"", "None"} else ""
        return f"the code called {failure.name or 'exit'}(){with_status}, which would end the session."
    if failure.kind in {"crash", "timeout", "interrupt"}:
        return last.message + "."
    return f"{last.kind}: {last.message}" if last.message else f"{last.kind}."


def _in_page_lines(words: str, chunk: Chunk) -> str:
    """Lines of the code that Python itself names, such as that of a bracket, as lines of the page."""
    if not words.startswith(("SyntaxError", "IndentationError", "TabError")):
        return words
    return _LINE.sub(lambda match: f"{match[1]}{int(match[2]) + chunk.code_line - 1}{match[3]}", words)


def _detail(failure: Failure, places: Places) -> str:
    if failure.kind in {"crash", "timeout", "interrupt", "SystemExit"}:
        return ""
    lines = [line for raised in _worth_telling(failure.chain) for line in _lines_of(raised, places)]
    if len(_worth_telling(failure.chain)) == 1:
        lines = lines[:-1]  # the message is the headline already
    return "\n".join(f"    {line}" for line in lines)


def _worth_telling(chain: tuple[Raised, ...]) -> list[Raised]:
    """Without what a library raised only to raise the same once more."""
    *earlier, last = chain
    return [
        one
        for one in earlier
        if (one.kind, one.message) != (last.kind, last.message)
        or not all(f.file.startswith("library:") for f in one.frames)
    ] + [last]


def _lines_of(raised: Raised, places: Places) -> list[str]:
    """One exception with the frames that mean something to the author: their own, and the last one beneath."""
    lines: list[str] = []
    shown = _worth_showing(raised.frames)
    for position, frame in enumerate(shown):
        span = places.of(frame)
        where = f"{span.file}:{span.line}" if span else f"{frame.file.removeprefix('library:')}:{frame.line}"
        inside = f", in {frame.name}" if frame.name not in {"<module>", ""} else ""
        lines.append(f"{where}{inside}")
        if frame.code:
            lines.append(f"    {frame.code.strip() if not frame.column else frame.code}")
        if frame.column:
            lines.append("    " + " " * (frame.column - 1) + "^")
        if position == _MAX_SHOWN // 2 and len(shown) < len(raised.frames) - _MAX_SHOWN:
            lines.append("… the same over and over …")
    message = f"{raised.kind}: {raised.message}" if raised.message else raised.kind
    return [*lines, message]


def _worth_showing(frames: tuple[Frame, ...]) -> list[Frame]:
    own = [frame for frame in frames if not frame.file.startswith("library:")]
    if frames and frames[-1].file.startswith("library:"):
        own.append(frames[-1])
    if len(own) > _MAX_SHOWN:
        own = own[: _MAX_SHOWN // 2 + 1] + own[-_MAX_SHOWN // 2 + 1 :]
    return own


# --- what was probably meant ------------------------------------------------------------------


def _hint(failure: Failure, chunk: Chunk | None, places: Places, line: int = 0) -> str:
    if failure.missing == "name":
        return _hint_for_missing(failure, chunk, chunk.span.line if chunk else line, places)
    if failure.missing == "package":
        return f"The package {failure.name!r} is not installed where this page runs. {failure.hint}".strip()
    if failure.kind == "NameError" and failure.name:
        return _hint_for_name(failure.name, chunk.span.line if chunk else line, places)
    if failure.kind == "ModuleNotFoundError" and failure.name:
        package = failure.name.split(".")[0]
        near = near_miss(package, set(_MODULES) - {package}, 1)
        return f"The package {package!r} is not installed where this page runs. {near}".strip()
    if failure.kind == "SystemExit":
        return "Take the call away; a page ends by itself."
    if failure.kind == "timeout":
        return "Give it longer with the option `timeout`, or make it do less."
    return failure.hint


def _hint_for_missing(failure: Failure, chunk: Chunk | None, line: int, places: Places) -> str:
    """For languages that say themselves where a name may come from: else who defines it, or something alike."""
    known: set[str] = set()
    for other in places.chunks.values():
        language = language_of(other.language)
        if language is None or (chunk is not None and language is not language_of(chunk.language)):
            continue
        written = language.code.bound(other.code)
        if failure.name in written and other.span.line > line:
            return f"The chunk `{other.label}` in line {other.span.line} defines {failure.name!r}, further down: move it up."
        if other.span.line <= line:
            known |= written - {failure.name}
    near = near_miss(failure.name, sorted(known))
    return near or failure.hint or "No chunk of this page defines it; a session starts empty."


def _hint_for_name(name: str, line: int, places: Places) -> str:
    """Who defines the missing name: a chunk further down, a well-known package, or something alike."""
    known: set[str] = set()
    for chunk in places.chunks.values():
        written = names_written(chunk.code)
        if name in written and chunk.span.line > line:
            return f"The chunk `{chunk.label}` in line {chunk.span.line} defines {name!r}, further down: move it up."
        if chunk.span.line < line:
            known |= written
    if name in PACKAGES:
        return f"Add `{PACKAGES[name]}` to a chunk above; a session starts empty."
    if name in _MODULES:
        return f"Add `import {name}` to a chunk above; a session starts empty."
    if name == "display":
        return "That is a function of notebooks: let the chunk end with the value, or write `page.table(…)`."
    near = near_miss(name, sorted(known)) or near_miss(name, dir(builtins), 1, 0.79)
    return near or "No chunk of this page defines it; a session starts empty."
