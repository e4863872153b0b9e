"""Letters as reStructuredText has them, by the specification of its markup: every text goes through here, and is read as the same letters."""

from __future__ import annotations

import re

_CONTROLS = re.compile("[\x00-\x08\x0e-\x1b\x1f\x7f-\x84\x86-\x9f\ufdd0-\ufdef\ufffe\uffff\ud800-\udfff]")
_LINE_ENDS = re.compile("[\x0b\x0c\x1c-\x1e\x85\u2028\u2029]")
_SIGNS = re.compile(r"[\\*`|]|_(?![A-Za-z0-9])|(?<![A-Za-z0-9])_|:(?=:)")
_OPENS = re.compile(
    r"""[-+*•‣⁃](?:\s|$)|\(?(?:\d+|[A-Za-z]|[ivxlcdmIVXLCDM]+|\#)[.)](?:\s|$)|[-+/]\w|--\w|\+[-=]|:[^:\s]|>>>|\.\.(?:\s|$)|__(?:\s|$)"""
    r"""|([!-/:-@[-`{-~])\1*\s*$|==+[\s=]|\["""
)
"""What makes more than a paragraph of a line that begins so."""


def clean(text: str) -> str:
    """Letters that a file can have, in lines that everybody counts alike."""
    return _LINE_ENDS.sub(" ", _CONTROLS.sub("\ufffd", text))


def text(words: str) -> str:
    """Running text."""
    words = clean(words).replace("\t", " ")
    return _SIGNS.sub(lambda found: "\\" + found[0], words).replace("\\::", "\\:\\:")


def at_beginning(words: str) -> str:
    """Words that begin a line, as a paragraph goes on with them."""
    words = words.lstrip(" ")
    return f"\\ {words}" if _OPENS.match(words) else words


def literal(code: str) -> str:
    """Code among words."""
    code = clean(code).replace("\n", " ").replace("\t", " ")
    if not code.strip():
        return ""
    if "``" in code or code.strip() != code or code[0] == "`" or code[-1] in "`\\":
        return role("literal", code)
    return f"``{code}``"


def role(name: str, words: str) -> str:
    """Words in a role; spaces at their ends stay."""
    words = clean(words).replace("\n", " ").replace("\t", " ")
    inner = re.sub(r"[\\`]", lambda found: "\\" + found[0], words)
    inner = re.sub(r"^\s|\s$", "\\\u00a0", inner)
    return f":{name}:`{inner}`" if words.strip() else ""


def lines(code: str) -> list[str]:
    """The lines of code or output."""
    return [line.rstrip().expandtabs(8) for line in clean(code.replace("\r\n", "\n")).split("\n")]


def width(words: str) -> int:
    """Columns that a line takes in a source."""
    import unicodedata

    return len(words) + sum(unicodedata.east_asian_width(one) in "WF" for one in words)
