"""What is fuzzed: one function a kind of text, each of which may only raise what a user can mend."""

from __future__ import annotations

import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple
from xml.etree import ElementTree as ET

from hypothesis import strategies as st

from tests.fuzz.stores import damaged_and_pressed
from wornpage.compose.mathematics.macros import MacroFault
from wornpage.compose.mathematics.reader import MathFault, read_formula
from wornpage.exchange import page_of_notebook, page_of_script
from wornpage.output.html.drawing import drawing
from wornpage.output.html.rich import rich
from wornpage.press import press
from wornpage.settings.yaml_text import read_yaml
from wornpage.sources.bibtex import from_bibtex
from wornpage.sources.style import StyleFault, read_style
from wornpage.store.trace import Read, Trace
from wornpage.store.traces import Traces
from wornpage.tree.nodes import Picture
from wornpage.tree.problem import UsageError, WornError


class Target(NamedTuple):
    """One kind of input: its usual pieces, and what reads it."""

    pieces: tuple[str, ...]
    read: Callable[[str], object]


def _page(text: str) -> None:
    with tempfile.TemporaryDirectory() as place:
        page = Path(place) / "p.md"
        page.write_bytes(text.encode("utf-8", "surrogatepass"))
        press(page, ["html"])


def _front(text: str) -> None:
    _page(f"---\ntitle: t\n{text}\n---\nwords\n")


def _svg(text: str) -> None:
    made = drawing(Picture("svg", text.encode("utf-8", "replace"), 1.0, 1.0, "a"), 1)
    if made.startswith("<svg"):
        ET.fromstring(made)


def _rich(text: str) -> None:
    made = rich(text, "words").lower()
    if "<iframe" not in made and any(sign in made for sign in ("<script", "<img/src", "<svg", "<base", "<link")):
        raise AssertionError(made)


def _notebook(text: str) -> None:
    page_of_notebook(text, "n.ipynb", "t", "pictures")


def _style(text: str) -> None:
    with tempfile.TemporaryDirectory() as place:
        (Path(place) / "s.csl").write_bytes(text.encode("utf-8", "replace"))
        read_style("s.csl", Path(place), "en")


def _stored(text: str) -> None:
    with tempfile.TemporaryDirectory() as place:
        folder = Path(place)
        traces = Traces(folder)
        traces.put("ab12", Trace("a", "ab12", "", "1", 0.0, (Read("name", "x", "1"),)))
        for path in (folder / "ab" / "ab12").rglob("*.*"):
            path.write_bytes(text.encode("utf-8", "replace"))
        if traces.find("ab12", lambda item: "1") is not None:
            raise AssertionError("a damaged trace was found")


TARGETS = {
    "page": Target(("# ", "\n\n", "\n", "- ", "  ", "> ", "```python run #a\n", "```\n", "~~~", ":::", "::: note\n", "{= ", "}", "{see a}",
                    "{cite ", "{insert ", "{contents}", "{references}", "| a | b |\n", "|---|---|\n", "$", "$$", "\\frac{", "^", "_", "*", "**",
                    "`", "[", "](", ")", "![", "Caption: ", "Label: x", "[^1]", "[^1]: ", "<b>", "<script>", "&amp;", "\\", "{#a}", "---\n",
                    "\t", "\0", "\x02", "\ufdd0", "\u202e", "ü", "title: t"), _page),
    "front matter": Target(("title: ", "given: ", "{", "}", "[", "]", ": ", "\n", "  ", "- ", "&a ", "*a", "!!", "|", ">", "'", '"', "#", "%",
                            "press: ", "html: ", "chunks: ", "all: ", "seed: ", "1e999", "9" * 30, "0x", "~", "yes", "---", "bibliography: x.bib",
                            "editions: ", "sets: ", "\x02", "\t", "authors: ", "name: "), _front),
    "yaml": Target(("a", ": ", "\n", "- ", "[", "]", "{", "}", "&x ", "*x", "<<", "!", "|", ">", "?", ",", "'", '"', "  ", "\t"),
                   lambda text: read_yaml(text, "f")),
    "bibliography": Target(("@article{", "key", ",", "title = {", "}", "author = ", '"', "{", "\\'e", "#", "@string{", "@comment", "and", "\n",
                            "year = 2020", "\\", "$", "--", "@"), from_bibtex),
    "citation style": Target(("<style>", "</style>", "<citation>", "</citation>", "<layout>", "</layout>", "<text variable='title'/>", "<names",
                              "<macro name='a'>", "<if type=", "<choose>", "&lt;", "<!DOCTYPE a [", "]>", "<", ">", "/", "'"), _style),
    "notebook": Target(('{"cells": [', "]}", '{"cell_type": "code", "source": [', '"x=1"', "]", "}", "null", "1", ",", '"outputs": [', '"data": {',
                        '"image/png": "', '"', ": "), _notebook),
    "script": Target(("# %%", "\n", "def f():\n", "    ", "'''", '"""', "# words", "import x", "(", ")", "\\", "\x0c", "#~ "),
                     lambda text: page_of_script(text, "s.py", "t")),
    "drawing": Target(('<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 1 1">', "</svg>", "<g>", "</g>", "<path d='M0 0'/>", "<script>",
                       "</script>", "<style>", "</style>", "<a href='javascript:1'>", "onload='1'", "<![CDATA[", "]]>", "<desc>", "</desc>",
                       "<image href='http://x'/>", "style='fill:url(http://x)'", "&#106;", "<!--", "-->", "<?x", "?>", "<set to='x'/>"), _svg),
    "rich value": Target(("<div>", "</div>", "<table>", "<tr>", "<td>", "<script>", "</script>", "<img src=x onerror=1>", "<img/src=", "<a href='",
                          "javascript:", "'", '"', ">", "<", "<!--", "-->", "<svg>", "<style>", "&lt;", "&#60;", "<base href=x>", "<iframe"), _rich),
    "formula": Target(("\\frac", "{", "}", "^", "_", "\\left(", "\\right)", "\\begin{cases}", "\\end{cases}", "&", "\\\\", "x", "1", "\\text{",
                       "\\mathrm{", "\\sqrt[", "]", "\\a", "'", "\\", "#", "$", "\\int", "\\limits"), read_formula),
    "stored file": Target(("null", "{", "}", "[", "]", '"', "1", "\n", "a" * 64, "\x00"), _stored),
    "store": Target(("null", "{", "}", "[", "]", '"', "1", "\n", "\x00"), damaged_and_pressed),
}  # fmt: skip
EXPECTED = (WornError, UsageError, MacroFault, MathFault, StyleFault)


def inputs(target: Target) -> st.SearchStrategy[str]:
    """Texts of usual pieces, wild letters, and now and then one piece very often."""
    piece = st.sampled_from(target.pieces)
    mixed = st.lists(piece | st.text(max_size=4) | st.from_regex(r"[a-z ]{1,8}", fullmatch=True), max_size=40).map(
        "".join
    )
    many = st.tuples(piece, st.integers(50, 2_000), mixed).map(lambda parts: parts[0] * parts[1] + parts[2])
    return mixed | mixed | mixed | many
