"""A figure of Matplotlib set in its proof: what is picked becomes lines of code at the end of its chunk, and its size an option of the chunk."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Mapping

from wornpage.source import Page
from wornpage.tree import nodes as n
from wornpage.tree.problem import UsageError

_AXES = re.compile(r"^\s*(?:\w+\s*,\s*)?(ax\w*)\s*=\s*[\w.]*(?:subplots|gca|add_subplot|axes)\(", re.MULTILINE)
_SHOWS = re.compile(r"\s*(?:plt|pyplot)\.show\(\)\s*$")
_PYPLOT = re.compile(
    r"^\s*(?:import matplotlib\.pyplot as (\w+)|from matplotlib import pyplot(?: as (\w+))?)", re.MULTILINE
)
_NUMBER = re.compile(r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?$")
_LENGTH = re.compile(r"\d+(?:\.\d+)?(?:cm|mm|in|pt)$")
_SCALES = ("linear", "log", "symlog")
_GRIDS = {"both": "True", "x": 'True, axis="x"', "y": 'True, axis="y"', "none": "False"}
PLACES = (
    "best", "upper right", "upper left", "lower left", "lower right", "center right", "center left", "lower center", "upper center", "center",
)  # fmt: skip


def chunk_at(page: Page, line: int) -> n.Chunk:
    """The chunk of Python whose result stands for a line of the page. Raises `UsageError`."""
    chunk = next((one for one in page.chunks if one.span.line == line and one.span.file == page.name), None)
    if (
        chunk is None
        or chunk.language != "python"
        or ("matplotlib" not in _all_code(page) and "plot" not in chunk.code)
    ):
        raise UsageError("this figure is not drawn by a chunk of this page that could be set here.")
    return chunk


def _all_code(page: Page) -> str:
    return "\n".join(chunk.code for chunk in page.chunks if chunk.language == "python")


def lines_for(page: Page, chunk: n.Chunk, picked: Mapping[str, str]) -> list[str]:
    """The lines of code that set what was picked. Raises `UsageError` for what cannot be."""
    found = _AXES.search(chunk.code)
    imported = _PYPLOT.search(_all_code(page))
    pyplot = next((name for name in imported.groups() if name), "pyplot") if imported else "plt"
    axes = found[1] if found else f"{pyplot}.gca()"
    made = list(_calls(axes, picked))
    return made if found or imported or not made else [f"import matplotlib.pyplot as {pyplot}", *made]


def _calls(axes: str, picked: Mapping[str, str]) -> Iterator[str]:
    for key, call in (("title", "set_title"), ("x-label", "set_xlabel"), ("y-label", "set_ylabel")):
        if key in picked:
            yield f"{axes}.{call}({_text(picked[key])})"
    for axis in ("x", "y"):
        if scale := picked.get(f"{axis}-scale"):
            yield f'{axes}.set_{axis}scale("{_one_of(scale, _SCALES)}")'
        low, high = (picked.get(f"{axis}-{end}", "") for end in ("from", "to"))
        ends = [f"{side}={_number(value)}" for side, value in zip(_ENDS[axis], (low, high), strict=True) if value]
        if ends:
            yield f"{axes}.set_{axis}lim({', '.join(ends)})"
    if grid := picked.get("grid"):
        yield f"{axes}.grid({_GRIDS[_one_of(grid, tuple(_GRIDS))]})"
    if place := picked.get("legend"):
        yield f'{axes}.legend(loc="{_one_of(place, PLACES)}")'


_ENDS = {"x": ("left", "right"), "y": ("bottom", "top")}


def _text(words: str) -> str:
    return '"' + words.replace("\\", "\\\\").replace('"', '\\"').replace("\n", " ") + '"'


def _number(text: str) -> str:
    if not _NUMBER.match(text.strip()):
        raise UsageError(f"{text!r} is no number.")
    return text.strip()


def _one_of(text: str, known: tuple[str, ...]) -> str:
    if text not in known:
        raise UsageError(f"{text!r} is none of {', '.join(known)}.")
    return text


def tuned(page: Page, chunk: n.Chunk, picked: Mapping[str, str]) -> str:
    """The whole page with these lines at the end of the chunk, and its size in the chunk's header."""
    lines = page.text.split("\n")
    first = chunk.code_line - 1
    code = lines[first : first + chunk.code.rstrip("\n").count("\n") + 1] if chunk.code.strip() else []
    made = [" " * chunk.indent + line for line in lines_for(page, chunk, picked)]
    at = len(code)
    while at and not code[at - 1].strip():
        at -= 1
    at -= 1 if at and _SHOWS.match(code[at - 1]) else 0
    head = chunk.span.line - 1
    lines[head] = _sized(lines[head], picked)
    return "\n".join([*lines[: first + at], *made, *lines[first + at :]])


def _sized(header: str, picked: Mapping[str, str]) -> str:
    for key in ("width", "height"):
        value = picked.get(key, "").replace(" ", "")
        if not value:
            continue
        if not _LENGTH.match(value):
            raise UsageError(f"{picked[key]!r} is no length. Write it as `14cm`.")
        option, put = re.compile(rf"(?<=\s){key}=\S+"), _putting(f"{key}={value}")
        header = option.sub(put, header) if option.search(header) else f"{header.rstrip()} {key}={value}"
    return header


def _putting(text: str) -> Callable[[re.Match[str]], str]:
    return lambda match: text
