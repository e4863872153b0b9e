"""The mathematics font a page carries: only the letters its formulas use, so that they look alike on every screen."""

from __future__ import annotations

import base64
import io
import re
from html import unescape
from importlib.resources import files

from wornpage.store.blocks import BlockCache
from wornpage.store.packages import version_of

_fonts = BlockCache("fonts")
_MATH = re.compile(r"<math\b.*?</math>", re.DOTALL)
_TAG = re.compile(r"<[^>]+>")
_ALWAYS = "0123456789+−=()[]{}|,.⁡′√∑∫"  # so that few pages need a font of their own
_PLANCK = "\u210e"
"""Where Unicode keeps the italic h."""


def math_style(html: str) -> str:
    """A style sheet with the font for the formulas in `html`; empty where there are none."""
    formulas = _MATH.findall(html)
    if not formulas:
        return ""
    letters = "".join(sorted(_letters("".join(formulas))))
    data = _fonts.get(letters, version_of("fonttools"))
    if data is None:
        data = _subset(letters)
        _fonts.put(data, letters, version_of("fonttools"))
    source = f'url(data:font/woff;base64,{data}) format("woff")'
    return f'@font-face {{ font-family: "Worn Mathematics"; src: {source}; }}'


def _letters(formulas: str) -> set[str]:
    """Every letter that is drawn; a lone letter is drawn in italics, from a place of its own in Unicode."""
    found = set(unescape(_TAG.sub("", formulas))) | set(_ALWAYS)
    return {letter for letter in found if letter.isprintable()} | {_italic(letter) for letter in found}


def _italic(letter: str) -> str:
    for first, last, start in (("A", "Z", 0x1D434), ("a", "z", 0x1D44E), ("Α", "Ω", 0x1D6E2), ("α", "ω", 0x1D6FC)):
        if first <= letter <= last:
            return _PLANCK if letter == "h" else chr(start + ord(letter) - ord(first))
    return {"ϵ": "𝜖", "ϑ": "𝜗", "ϰ": "𝜘", "ϕ": "𝜙", "ϱ": "𝜚", "ϖ": "𝜛", "∂": "𝜕"}.get(letter, letter)


def _subset(letters: str) -> str:
    """The font with these letters, in base64; the same bytes for the same letters."""
    from fontTools import subset
    from fontTools.ttLib import TTFont

    whole = (files("wornpage.output.html") / "mathematics.otf").read_bytes()
    font = TTFont(io.BytesIO(whole), lazy=True, recalcTimestamp=False)
    options = subset.Options()
    options.layout_features = ["ssty", "dtls", "flac"]
    options.name_IDs = [1, 2, 13]
    subsetter = subset.Subsetter(options)
    subsetter.populate(text=letters)
    subsetter.subset(font)
    font.flavor = "woff"
    made = io.BytesIO()
    font.save(made)
    return base64.b64encode(made.getvalue()).decode()
