"""Formulas of chemistry, as chemists write them in LaTeX (`\\ce{2H2 + O2 -> 2H2O}`), as notation of mathematics.

A number behind a letter or a bracket is set low, one in front of a molecule is its amount; `^` and a sign behind a
molecule are its charge; arrows may have words above and below.
"""

from __future__ import annotations

import re
from collections.abc import Callable

_ARROWS = {
    "->": r"\rightarrow",
    "<-": r"\leftarrow",
    "<->": r"\leftrightarrow",
    "<=>": r"\rightleftharpoons",
    "=>": r"\Rightarrow",
}
_BONDS = {"-": r"\mathord{-}", "=": r"\mathord{=}", "#": r"\mathord{\equiv}"}
_STEPS = re.compile(
    r"""(?P<space>\s+)
      | (?P<arrow>(?P<way><=>|<->|->|<-|=>)(?:\[(?P<above>[^\]]*)\])?(?:\[(?P<below>[^\]]*)\])?)
      | (?P<state>\((?:aq|s|l|g|cr|am)\))
      | (?P<up>\^\s*(?:\{(?P<upper>[^{}]*)\}|(?P<charge>\d*[+-]|\d+)|(?=\s|$)))
      | (?P<down>_\s*(?:\{(?P<lower>[^{}]*)\}|(?P<index>\d+|[A-Za-z])))
      | (?P<command>\\[A-Za-z]+(?:\{[^{}]*\})*|\\.)
      | (?P<letters>[^\W\d_]+)
      | (?P<number>\d+(?:[.,/]\d+)?)
      | (?P<sign>.)
    """,
    re.VERBOSE | re.DOTALL,
)


def notation_of(text: str) -> str:
    """`text` in LaTeX's notation of mathematics."""
    writer = _Writer(text)
    return "".join(map(writer.step, _STEPS.finditer(text)))


class _Writer:
    def __init__(self, text: str) -> None:
        self.text = text
        self.is_inside = False
        """Whether a molecule has begun: then a number belongs to what stands before it."""

    def step(self, match: re.Match[str]) -> str:
        made: Callable[[re.Match[str]], str] = getattr(self, f"_{match.lastgroup}")
        return made(match)

    def _space(self, match: re.Match[str]) -> str:
        self.is_inside = False
        return " "

    def _arrow(self, match: re.Match[str]) -> str:
        self.is_inside = False
        sign = _ARROWS[match["way"]]
        above, below = (notation_of(match[part] or "") for part in ("above", "below"))
        if not above and not below:
            return rf" {sign} "
        return (
            rf" \overset{{{above}}}{{\underset{{{below}}}{{{sign}}}}} "
            if below
            else rf" \overset{{{above}}}{{{sign}}} "
        )

    def _state(self, match: re.Match[str]) -> str:
        return rf"\,\mathrm{{{match['state']}}}"

    def _up(self, match: re.Match[str]) -> str:
        if match["upper"] is None and match["charge"] is None:
            return r"\uparrow "
        return self._raised(match["upper"] if match["upper"] is not None else match["charge"])

    def _raised(self, words: str) -> str:
        if words.isalpha():
            return rf"^{{\mathrm{{{words}}}}}"
        return f"^{{{words.replace('.', chr(92) + 'bullet ')}}}"

    def _down(self, match: re.Match[str]) -> str:
        words = match["lower"] if match["lower"] is not None else match["index"]
        return rf"_{{\mathrm{{{words}}}}}"

    def _command(self, match: re.Match[str]) -> str:
        self.is_inside = True
        return f"{match['command']} "

    def _letters(self, match: re.Match[str]) -> str:
        if match["letters"] == "v" and self._stands_alone(match):
            return r"\downarrow "
        self.is_inside = True
        return rf"\mathrm{{{match['letters']}}}"

    def _number(self, match: re.Match[str]) -> str:
        number = match["number"]
        if self.is_inside:
            return f"_{{{number}}}"
        upper, _, lower = number.partition("/")
        return rf"\tfrac{{{upper}}}{{{lower}}}\," if lower else rf"{number}\,"

    def _sign(self, match: re.Match[str]) -> str:
        sign = match["sign"]
        if sign in "+-" and self.is_inside and not re.match(r"[\w(\[]", self.text[match.end() :]):
            return ("{}" if self.text[match.start() - 1] == "}" else "") + self._raised(sign)
        if sign in "([":
            self.is_inside = False
        elif sign in ")]":
            self.is_inside = True
        elif sign in "*.":
            self.is_inside = False
            return r" \cdot "
        elif sign == "+":
            return "{} + {}"
        elif sign in _BONDS and self.is_inside:
            return _BONDS[sign]
        return {"{": r"\{", "}": r"\}"}.get(sign, sign)

    def _stands_alone(self, match: re.Match[str]) -> bool:
        around = self.text[match.start() - 1 : match.start()] + self.text[match.end() : match.end() + 1]
        return not around.strip()
