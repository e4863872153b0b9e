"""LaTeX as it stands in bibliographies, to text with the few tags that CSL-JSON knows."""

from __future__ import annotations

import re
import unicodedata
from html import escape

_ACCENTS = {
    "`": "\u0300", "'": "\u0301", "^": "\u0302", "~": "\u0303", '"': "\u0308", "=": "\u0304", ".": "\u0307", "u": "\u0306",
    "v": "\u030c", "H": "\u030b", "c": "\u0327", "k": "\u0328", "r": "\u030a", "d": "\u0323", "b": "\u0331",
}  # fmt: skip
_SIGNS = {
    "ss": "ß", "ae": "æ", "AE": "Æ", "oe": "œ", "OE": "Œ", "o": "ø", "O": "Ø", "l": "ł", "L": "Ł", "aa": "å", "AA": "Å",
    "i": "i", "j": "j", "dh": "ð", "DH": "Ð", "th": "þ", "TH": "Þ", "dj": "đ", "DJ": "Đ", "ng": "ŋ", "textendash": "–",
    "textemdash": "—", "textquoteright": "’", "textquoteleft": "‘", "textquotedblleft": "“", "textquotedblright": "”",
    "textasciitilde": "~", "textbackslash": "\\", "textdegree": "°", "pounds": "£", "euro": "€", "copyright": "©", "S": "§",
    "P": "¶", "dag": "†", "ddag": "‡", "ldots": "…", "dots": "…", "textellipsis": "…", "alpha": "α", "beta": "β", "gamma": "γ",
    "delta": "δ", "mu": "μ", "pi": "π", "sigma": "σ", "times": "×", "pm": "±", "LaTeX": "LaTeX", "TeX": "TeX", "textregistered": "®",
}  # fmt: skip
_TAGS = {
    "emph": "i", "textit": "i", "mkbibemph": "i", "textbf": "b", "mkbibbold": "b", "textsuperscript": "sup",
    "textsubscript": "sub", "textsc": "sc",
}  # fmt: skip
_SWITCHES = {"em": "i", "it": "i", "itshape": "i", "bf": "b", "bfseries": "b"}
_PLAIN = {
    "text",
    "mbox",
    "textrm",
    "textup",
    "textnormal",
    "url",
    "enquote",
    "mkbibquote",
    "href",
    "noopsort",
    "texttt",
    "textsf",
}
_TOKEN = re.compile(r"\\([A-Za-z]+)\*? ?|\\(.)|([{}])|(\$)|(---?|~|``|'')|([^\\{}$~`'^_-]+|.)", re.DOTALL)


_ADDRESS = re.compile(r"\\(?:url|nolinkurl|path)\s*\{((?:[^{}]|\{[^{}]*\})*)\}")
_ADDRESS_MARK = "\ue001"
"""Stands for an address while the text around it is read; no bibliography has this letter."""


def decoded(latex: str) -> str:
    """`latex` as text with `<i>`, `<b>`, `<sup>`, `<sub>` and `<span class="nocase">` for what braces protect."""
    addresses: list[str] = []

    def keep(match: re.Match[str]) -> str:
        addresses.append(match[1])
        return _ADDRESS_MARK

    spaced = _ADDRESS.sub(keep, " ".join(latex.replace(_ADDRESS_MARK, "").split()))
    text, _ = _run(_TOKEN.findall(spaced), 0, 0, "")
    for address in addresses:
        text = text.replace(_ADDRESS_MARK, escape(verbatim(address), quote=False), 1)
    text = re.sub(r'<span class="nocase">([^A-Za-zÀ-ž]*)</span>', r"\1", text)
    return unicodedata.normalize("NFC", text).strip()


def verbatim(address: str) -> str:
    """An address as it stands in a bibliography: a tilde is one there; braces and backslashes before signs are LaTeX's."""
    return re.sub(
        r"\\(?=[_%#&$~{}])|(?<!\\)[{}]|\\textasciitilde ?", lambda m: "~" if len(m[0]) > 1 else "", address.strip()
    )


def plain(latex: str) -> str:
    """`latex` as text without any tags, for names and other short things."""
    return re.sub(r"<[^>]+>", "", decoded(latex)).replace("&amp;", "&").replace("&lt;", "<").replace("&gt;", ">")


Tokens = list[tuple[str, ...]]


def _run(tokens: Tokens, at: int, depth: int, until: str) -> tuple[str, int]:
    """The text of tokens from `at` on, up to the closing `until`, and where to go on."""
    made: list[str] = []
    while at < len(tokens):
        word, sign, brace, dollar, special, text = tokens[at]
        at += 1
        if brace == "}" or (dollar and until == "$"):
            if until:
                return "".join(made), at
        elif brace == "{":
            inner, at = _group(tokens, at, depth)
            made.append(inner)
        elif dollar:
            inner, at = _run(tokens, at, depth, "$")
            made.append(inner)
        elif word:
            piece, at = _command(word, tokens, at, depth)
            made.append(piece)
        elif sign:
            piece, at = _sign(sign, tokens, at)
            made.append(piece)
        elif special:
            made.append({"--": "–", "---": "—", "~": "\u00a0", "``": "“", "''": "”"}.get(special, special))
        elif until == "$" and text in {"^", "_"}:
            inner, at = _argument(tokens, at, depth)
            made.append(f"<{'sup' if text == '^' else 'sub'}>{inner}</{'sup' if text == '^' else 'sub'}>")
        else:
            made.append(escape(text, quote=False))
    return "".join(made), at


def _group(tokens: Tokens, at: int, depth: int) -> tuple[str, int]:
    """What stands in braces; at the outermost level they keep the case of letters."""
    if at < len(tokens) and tokens[at][0] in _SWITCHES:
        inner, end = _run(tokens, at + 1, depth + 1, "}")
        tag = _SWITCHES[tokens[at][0]]
        return f"<{tag}>{inner}</{tag}>", end
    begins_with_command = at < len(tokens) and bool(tokens[at][0] or tokens[at][1])
    inner, at = _run(tokens, at, depth + 1, "}")
    if depth or begins_with_command or not inner:
        return inner, at
    return f'<span class="nocase">{inner}</span>', at


def _command(word: str, tokens: Tokens, at: int, depth: int) -> tuple[str, int]:
    if word in _SIGNS:
        return _SIGNS[word], at
    if word in _ACCENTS:
        inner, at = _argument(tokens, at, depth)
        return _accented(inner, _ACCENTS[word]), at
    if word in _TAGS:
        inner, at = _argument(tokens, at, depth)
        return f"<{_TAGS[word]}>{inner}</{_TAGS[word]}>", at
    if word in _PLAIN:
        inner, at = _argument(tokens, at, depth)
        return (f"“{inner}”" if word in {"enquote", "mkbibquote"} else inner), at
    return "", at  # a command that says nothing here: its argument follows as a group


def _sign(sign: str, tokens: Tokens, at: int) -> tuple[str, int]:
    if sign in _ACCENTS:
        inner, at = _argument(tokens, at, 1)
        return _accented(inner, _ACCENTS[sign]), at
    return ("" if sign in "-/" else "\u2009" if sign == "," else escape(sign, quote=False)), at


def _argument(tokens: Tokens, at: int, depth: int) -> tuple[str, int]:
    """A group, or the next letter; what follows that letter stays."""
    while at < len(tokens) and tokens[at][5].isspace():
        at += 1
    if at >= len(tokens):
        return "", at
    word, _, brace, _, _, text = tokens[at]
    if brace == "{":
        return _run(tokens, at + 1, depth + 1, "}")
    if word:
        return _SIGNS.get(word, ""), at + 1
    if len(text) > 1:
        tokens[at] = ("", "", "", "", "", text[1:])
        return escape(text[0], quote=False), at
    return escape(text, quote=False), at + 1


def _accented(text: str, mark: str) -> str:
    if not text[:1].isalpha():
        return text
    return unicodedata.normalize("NFC", text[:1] + mark) + text[1:]
