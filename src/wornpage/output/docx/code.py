"""Code, and what it prints: one paragraph a block, with line ends in it, so that it is copied whole."""

from __future__ import annotations

from collections.abc import Callable

from wornpage.output.docx.running import Running
from wornpage.output.docx.styles import ROLES
from wornpage.output.docx.xml import Look, Properties, paragraph
from wornpage.tree import nodes as n

_SHORT = 25
"""Lines that are kept on one sheet."""
_BREAK = "<w:r><w:br/></w:r>"


Told = Callable[[str], Properties]
"""Gives the properties of a paragraph in a style where it now stands."""


def code(running: Running, node: n.CodeBlock, picked: str, told_of: Told) -> list[str]:
    """A block of code, and the author's notes to its lines; `picked` is the colour behind lines that are picked out."""
    lines = [_line(running, line, node, at, picked) for at, line in enumerate(node.lines)]
    told = told_of("CodeBlock")
    if len(lines) <= _SHORT:
        told.add("keepLines")
    if node.asides:
        told.add("keepNext")
    made = [paragraph(_BREAK.join(lines), told)]
    for number, words in enumerate(node.asides, 1):
        mark = running.text(f"{number}\t", Look(style=running.ids["CodeMark"]))
        aside = told_of("CodeAside")
        if number == len(node.asides):
            aside.add("spacing", 'w:after="180"')
        made.append(paragraph(mark + running.words(words), aside))
    return made


def _line(running: Running, line: n.CodeLine, node: n.CodeBlock, at: int, picked: str) -> str:
    shade = picked if line.picked else ""
    number = node.first_number + at
    made = ""
    if node.numbered:
        width = len(str(node.first_number + len(node.lines) - 1))
        shown = str(number) if number > 0 else ""
        made += running.text(f"{shown:>{width}}  ", Look(style=running.ids["CodeLineNumber"], is_code=True))
    for token in line.tokens:
        style = running.ids[f"Code{token.role.title()}"] if token.role in ROLES else ""
        made += running.text(token.text, Look(style=style, shade=shade, is_code=True))
    if line.aside:
        made += running.text(f" {line.aside}", Look(style=running.ids["CodeMark"], height="superscript"))
    return made


def output(running: Running, node: n.OutputText, told_of: Told) -> str:
    """What a chunk has printed, or said as a notice or an error."""
    style = {"notice": "Notice", "error": "Failure"}.get(node.role, "Output")
    told = told_of(style)
    if node.text.count("\n") < _SHORT:
        told.add("keepLines")
    words = running.text(node.text.expandtabs(8), Look(is_code=True))
    cut = running.text(f"\n… {node.cut}", Look(italic=True)) if node.cut else ""
    return paragraph(words + cut, told)
