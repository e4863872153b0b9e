"""Letters of mathematical alphabets, as Unicode encodes them (block Mathematical Alphanumeric Symbols)."""

from __future__ import annotations

_STARTS = {  # style: capital A, small a, digit 0, capital alpha, small alpha; 0 where there is none
    "bold": (0x1D400, 0x1D41A, 0x1D7CE, 0x1D6A8, 0x1D6C2),
    "bold-italic": (0x1D468, 0x1D482, 0x1D7CE, 0x1D71C, 0x1D736),
    "double-struck": (0x1D538, 0x1D552, 0x1D7D8, 0, 0),
    "script": (0x1D49C, 0x1D4B6, 0, 0, 0),
    "fraktur": (0x1D504, 0x1D51E, 0, 0, 0),
    "sans": (0x1D5A0, 0x1D5BA, 0x1D7E2, 0, 0),
    "mono": (0x1D670, 0x1D68A, 0x1D7F6, 0, 0),
}
_ELSEWHERE = {
    "double-struck": dict(zip("CHNPQRZ", "ℂℍℕℙℚℝℤ", strict=True)),
    "script": dict(zip("BEFHILMRego", "ℬℰℱℋℐℒℳℛℯℊℴ", strict=True)),
    "fraktur": dict(zip("CHIRZ", "ℭℌℑℜℨ", strict=True)),
}


def styled_letters(text: str, style: str) -> str:
    """`text` in the letters of `style`; what has no such letter stays as it is."""
    if style not in _STARTS:
        return text
    return "".join(_ELSEWHERE.get(style, {}).get(letter) or _shift(letter, _STARTS[style]) for letter in text)


def _shift(letter: str, starts: tuple[int, int, int, int, int]) -> str:
    for start, first, last in zip(starts, "Aa0Αα", "Zz9Ωω", strict=True):
        if start and first <= letter <= last:
            return chr(start + ord(letter) - ord(first))
    return letter
