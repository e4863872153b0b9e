"""Formulas as they were written, in the surroundings that LaTeX wants for them."""

from __future__ import annotations

import re

from wornpage.output.tex import letters
from wornpage.tree import nodes as n

_BLANK_LINES = re.compile(r"\n\s*\n")
_OUTER = re.compile(r"\\(begin|end)\{(equation|align|alignat|gather|multline|eqnarray|flalign)\*?\}")
_INNER = {
    "align": "aligned", "flalign": "aligned", "eqnarray": "aligned", "alignat": "alignedat", "gather": "gathered", "multline": "gathered",
}  # fmt: skip
_WHOLE = re.compile(r"\\begin\{(aligned|align|gather|gathered|equation)\*?\}(.*)\\end\{\1\*?\}\s*", re.DOTALL)
_WORDS = re.compile(r"\\(?:text|textrm|textit|textbf|mbox)\{")
_SIGN = re.compile(r"(?<!\\)[&#_%]")


def within(node: n.Math) -> str:
    """A formula among words."""
    return rf"\({_sound(node.latex)}\)" if node.latex else letters.text(node.alt)


def display(node: n.MathBlock, before: str) -> str:
    """A formula by itself; `before` sets its counter where that must be."""
    latex = _sound(node.latex) if node.latex else rf"\text{{{letters.text(node.alt)}}}"
    label = rf"\label{{{letters.label(node.label)}}}" if node.label else ""
    tagged = _WHOLE.fullmatch(latex) if r"\tag" in latex else None
    if tagged is not None:  # with tags of its own for its lines
        name = "gather*" if tagged[1].startswith("gather") else "equation*" if tagged[1] == "equation" else "align*"
        return f"\\begin{{{name}}}{label}{tagged[2].rstrip()}\n\\end{{{name}}}"
    latex = _OUTER.sub(lambda found: rf"\{found[1]}{{{_INNER[found[2]]}}}" if found[2] in _INNER else "", latex).strip()
    if not node.number:
        return f"\\[\n{latex}\n\\]"
    return f"{before}\\begin{{equation}}{label}\n{latex}\n\\end{{equation}}"


def _sound(latex: str) -> str:
    """A formula without what LaTeX stops at and readers here do not: blank lines, bare signs in words."""
    latex = _BLANK_LINES.sub("\n", latex).strip()
    made, at = "", 0
    for found in _WORDS.finditer(latex):
        if found.start() >= at:
            ends = _closing(latex, found.end())
            words = latex[found.end() : ends].split("$")  # every second is a formula again
            made += latex[at : found.end()] + "$".join(
                _SIGN.sub(r"\\\g<0>", one) if place % 2 == 0 else one for place, one in enumerate(words)
            )
            at = ends
    return made + latex[at:]


def _closing(latex: str, at: int) -> int:
    """Where the brace that was opened before `at` closes."""
    depth = 1
    while at < len(latex) and depth:
        depth += {"{": 1, "}": -1}.get(latex[at], 0) * (latex[at - 1] != "\\")
        at += 1
    return at - 1
