"""Letters as LaTeX has them: every text goes through here, and comes out as the same letters on the sheet."""

from __future__ import annotations

import re
import unicodedata

_SIGNS = {
    "\\": r"\textbackslash{}", "{": r"\{", "}": r"\}", "$": r"\$", "&": r"\&", "#": r"\#", "%": r"\%", "_": r"\_",
    "~": r"\textasciitilde{}", "^": r"\textasciicircum{}", '"': r"\textquotedbl{}", "`": r"\textasciigrave{}", "<": r"\textless{}", ">": r"\textgreater{}",
    "|": r"\textbar{}", "\u00a0": "~", "\u2007": "~", "\u202f": r"\,", "\u2009": r"\,", "\u200a": r"\,", "\u2003": r"\quad{}", "\u2002": r"\enspace{}",
    "\u00ad": r"\-", "\u2011": r"\mbox{-}", "\u200b": r"\hspace{0pt}", "\u2060": "", "\ufeff": "", "\u200d": "", "\u200c": "",
    "\u2010": "-", "\u2012": "--", "\u2013": "--", "\u2014": "---", "\u2015": "---", "\u2026": r"\dots{}",
    "\ufffd": r"\wornunknown{}", "↪": r"\(\hookrightarrow\)", "°": r"\textdegree{}", "µ": r"\textmu{}", "€": r"\texteuro{}", "№": r"\textnumero{}", "™": r"\texttrademark{}", "©": r"\textcopyright{}", "®": r"\textregistered{}",
    "✓": r"\(\checkmark\)", "☐": r"\(\square\)", "☑": r"\(\boxtimes\)", "•": r"\textbullet{}", "′": r"\('\)", "″": r"\(''\)", "‰": r"\textperthousand{}",
    "●": r"\(\bullet\)", "○": r"\(\circ\)", "◦": r"\(\circ\)", "■": r"\(\blacksquare\)", "□": r"\(\square\)", "▪": r"\(\blacksquare\)", "★": r"\(\bigstar\)", "△": r"\(\triangle\)",
    "▲": r"\(\blacktriangle\)", "▼": r"\(\blacktriangledown\)", "◆": r"\(\blacklozenge\)", "◇": r"\(\lozenge\)", "✗": r"\(\times\)", "⋅": r"\(\cdot\)", "∙": r"\(\cdot\)",
}  # fmt: skip
_OF_MATHEMATICS = {
    "−": "-", "±": r"\pm", "∓": r"\mp", "×": r"\times", "÷": r"\div", "≤": r"\leq", "≥": r"\geq", "≠": r"\neq", "≈": r"\approx", "≡": r"\equiv",
    "∼": r"\sim", "≃": r"\simeq", "≅": r"\cong", "∝": r"\propto", "∞": r"\infty", "√": r"\surd", "∑": r"\sum", "∏": r"\prod", "∫": r"\int", "∂": r"\partial", "∇": r"\nabla",
    "∈": r"\in", "∉": r"\notin", "∪": r"\cup", "∩": r"\cap", "⊂": r"\subset", "⊃": r"\supset", "⊆": r"\subseteq", "⊇": r"\supseteq", "∅": r"\emptyset", "∀": r"\forall", "∃": r"\exists",
    "¬": r"\neg", "∧": r"\wedge", "∨": r"\vee", "→": r"\rightarrow", "←": r"\leftarrow", "↔": r"\leftrightarrow", "↑": r"\uparrow", "↓": r"\downarrow", "⇒": r"\Rightarrow",
    "⇐": r"\Leftarrow", "⇔": r"\Leftrightarrow", "↦": r"\mapsto", "⟨": r"\langle", "⟩": r"\rangle", "≪": r"\ll", "≫": r"\gg", "⊕": r"\oplus", "⊗": r"\otimes", "⊥": r"\perp", "∥": r"\parallel",
    "∠": r"\angle", "ℓ": r"\ell", "ℝ": r"\mathbb{R}", "ℕ": r"\mathbb{N}", "ℤ": r"\mathbb{Z}", "ℚ": r"\mathbb{Q}", "ℂ": r"\mathbb{C}", "ħ": r"\hbar", "…": r"\dots", "∗": "*", "≲": r"\lesssim", "≳": r"\gtrsim",
    "α": r"\alpha", "β": r"\beta", "γ": r"\gamma", "δ": r"\delta", "ε": r"\varepsilon", "ζ": r"\zeta", "η": r"\eta", "θ": r"\theta", "ι": r"\iota", "κ": r"\kappa", "λ": r"\lambda",
    "μ": r"\mu", "ν": r"\nu", "ξ": r"\xi", "ο": "o", "π": r"\pi", "ρ": r"\rho", "σ": r"\sigma", "ς": r"\varsigma", "τ": r"\tau", "υ": r"\upsilon", "φ": r"\varphi", "χ": r"\chi", "ψ": r"\psi",
    "ω": r"\omega", "Γ": r"\Gamma", "Δ": r"\Delta", "Θ": r"\Theta", "Λ": r"\Lambda", "Ξ": r"\Xi", "Π": r"\Pi", "Σ": r"\Sigma", "Φ": r"\Phi", "Ψ": r"\Psi", "Ω": r"\Omega", "ϕ": r"\phi", "ϵ": r"\epsilon",
    "∆": r"\Delta", "⌈": r"\lceil", "⌉": r"\rceil", "⌊": r"\lfloor", "⌋": r"\rfloor", "∘": r"\circ", "⟶": r"\longrightarrow", "⟵": r"\longleftarrow", "∴": r"\therefore", "⪅": r"\lessapprox",
}  # fmt: skip
_TABLE = str.maketrans(_SIGNS | {sign: rf"\({name}\)" for sign, name in _OF_MATHEMATICS.items() if sign != "…"})
_LITERAL = _TABLE | {ord("'"): r"\textquotesingle{}"}
_STEPS = re.compile(r"(?<=\w{3})([/._,:(=-])(?=\w{3})")
"""Where code may be broken."""
_LONG = re.compile(r"[^\s\x01-]{40,}")
"""What no line holds well."""
_LIGATURES = re.compile(r"--+|,,|''")
"""What would become one sign on the sheet."""
_RAISED = dict(zip("⁰¹²³⁴⁵⁶⁷⁸⁹⁺⁻ⁿ", "0123456789+-n", strict=True))
_LOWERED = dict(zip("₀₁₂₃₄₅₆₇₈₉₊₋", "0123456789+-", strict=True))
_HIGH = re.compile(f"[{''.join(_RAISED)}]+")
_LOW = re.compile(f"[{''.join(_LOWERED)}]+")
_CONTROLS = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x9f\ufdd0-\ufdef\ufffe\uffff\ud800-\udfff]")
_VERBATIM = str.maketrans(
    {sign: rf"\ensuremath{{{name}}}" for sign, name in _OF_MATHEMATICS.items()}
    | {sign: made for sign, made in _SIGNS.items() if not sign.isascii()}
    | {"\\": r"\wornbackslash{}", "{": r"\{", "}": r"\}", "↪": r"\ensuremath{\hookrightarrow}"}
)


def text(words: str, is_literal: bool = False) -> str:
    """Running text; one that is literal keeps its straight quotes, and may be broken where code may."""
    words = unicodedata.normalize("NFC", _CONTROLS.sub("\ufffd", words))
    if words.isascii() and words.replace(" ", "").isalnum():
        return words
    words = _LIGATURES.sub(lambda found: "\x00".join(found[0]), words)
    if is_literal:
        words = _STEPS.sub("\\1\x01", words)
    words = _LONG.sub(lambda found: "\x01".join(re.findall(".{1,12}", found[0])), words)
    words = words.translate(_LITERAL if is_literal else _TABLE)
    words = words.replace("\x00", "{}").replace("\x01", r"\allowbreak{}")
    words = _HIGH.sub(lambda found: rf"\textsuperscript{{{''.join(map(_RAISED.get, found[0]))}}}", words)  # type: ignore[arg-type]
    return _LOW.sub(lambda found: rf"\textsubscript{{{''.join(map(_LOWERED.get, found[0]))}}}", words)  # type: ignore[arg-type]


def verbatim(code: str) -> str:
    """Code where only `\\`, `{` and `}` are signs of LaTeX's."""
    return _CONTROLS.sub("\ufffd", code.expandtabs(4)).translate(_VERBATIM)


def address(place: str) -> str:
    """An address in a link."""
    for sign in '\\{}^ `|"<>':
        place = place.replace(sign, f"%{ord(sign):02X}")
    return _CONTROLS.sub("", place).replace("%", r"\%").replace("#", r"\#").replace("&", r"\&")


_FORBIDDEN = re.compile(r"[\\{}#%~^&$\s,]+")


def label(name: str) -> str:
    """A label as LaTeX takes it."""
    return _FORBIDDEN.sub("-", name)


def lacking(words: str) -> set[str]:
    """The letters of a text that LaTeX's own fonts do not have."""
    return {one for one in unicodedata.normalize("NFC", words) if ord(one) > _LATIN and not _is_known(one)}


_LATIN = 0x17F
"""The last of the letters of Latin that every font for LaTeX has."""
_PUNCTUATION = frozenset("‘’‚“”„‹›†‡ȘșȚțﬁﬂ")


def _is_known(one: str) -> bool:
    known = one in _PUNCTUATION or ord(one) in _TABLE or one in _RAISED or one in _LOWERED
    return known or _CONTROLS.match(one) is not None or one in "\u2028\u2029"
