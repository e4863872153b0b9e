"""What can be told of a shell's code by reading it."""

from __future__ import annotations

import re

from wornpage.session.program.language import PlainCode

_WORD = re.compile(r"[\w.+-]+")
_NAME = re.compile(r"[A-Za-z_]\w*")
_BOUND = re.compile(
    r"(?:^|[\s;&|({])(?:(?:export|declare|local|readonly|typeset)\s+(?:-\w+\s+)*)?([A-Za-z_]\w*)(?:\[[^\]]*\])?\+?=",
    re.MULTILINE,
)
_FUNCTION = re.compile(r"(?:^|[\s;&|{])(?:function\s+([\w-]+)|([\w-]+)\s*\(\s*\))", re.MULTILINE)
_ONLY_WRITTEN = re.compile(r"(?<![<>&\w])(?:[12]|&)?>(?![>&(|])\s*\"?([\w./~+@%-]+)\"?")
_MADE = re.compile(r"\bmkdir\s+(?:-\w*p\w*|--parents)((?:[ \t]+\"?[\w./~+@%-]+\"?)+)")
"""Folders that may be there already."""
_BY_VARIABLE = re.compile(
    r"(?:\[\[?|\btest)\s+(?:!\s+)?-[bcdefghkLOprsuwx]\s+(?:\"[^\"\n]*|[^\s\]]*)[$*?]|\$[^\n]*\s-(?:nt|ot|ef)\s|\s-(?:nt|ot|ef)\s[^\n]*\$"
)
_OWN_TRACE = re.compile(r"\bset\s+[-+]\w*x|xtrace|\$-|PS4|SHELLOPTS|BASH_XTRACEFD")
_AT_WILL = re.compile(
    r"\beval\b|\$\{!|\bsource\b|(?:^|[;&|{(\s])\.\s|\bdeclare\s+-\w*n|\bprintf\s+-v|\bcompgen\b|\bdeclare\s+-[pfF]|\bset\s*$|\benv\b|\bprintenv\b|\bexport\s*(?:-p)?\s*$",
    re.MULTILINE,
)
_CLOCK = re.compile(r"(?<![\w./-])(?:date|uptime|\$SECONDS|\$EPOCHSECONDS|\$EPOCHREALTIME)(?![\w./=-])")


class BashCode(PlainCode):
    """Its letters count as they are: a comment may be a line of a text that stands within the code."""

    def mentioned(self, code: str) -> frozenset[str]:
        """Every word that may be a name."""
        return frozenset(_NAME.findall(code))

    def bound(self, code: str) -> set[str]:
        """Variables that it assigns, and functions that it defines."""
        return {*_BOUND.findall(code), *(one or other for one, other in _FUNCTION.findall(code))}

    def clock(self, code: str) -> str:
        """A command or a variable that tells the time."""
        found = _CLOCK.search(code)
        return found[0] if found else ""


def words(code: str) -> set[str]:
    """Words that may be commands."""
    return set(_WORD.findall(code))


def asks_for_anything(code: str) -> bool:
    """Whether it may ask for variables that it does not name."""
    return bool(_AT_WILL.search(code))


def asks_by_variables(code: str) -> bool:
    """Whether it asks for files whose names do not stand in it; not where following it could be seen."""
    return bool(_BY_VARIABLE.search(code)) and not _OWN_TRACE.search(code)


def asks_where(code: str) -> bool:
    """Whether it may ask where the page's folder lies."""
    return bool(re.search(r"\b(?:pwd|PWD|realpath|readlink|dirname)\b", code))


def draws(code: str) -> bool:
    """Whether it draws random numbers."""
    return bool(re.search(r"\bRANDOM\b|\bshuf\b", code))


def only_written(code: str) -> tuple[str, ...]:
    """What it makes before it names it in any other way: files that its output goes to, and folders.

    Where it defines functions, the order of lines is not that of what happens: then a file counts that is named once.
    """
    in_order = _FUNCTION.search(code) is None
    found = []
    for match in (*_ONLY_WRITTEN.finditer(code), *_MADE.finditer(code)):
        for path in match[1].replace('"', "").split():
            name = path.rpartition("/")[2] or path
            if code.count(name) == 1 or (in_order and code.find(name) >= match.start(1)):
                found.append(path)
    return tuple(found)
