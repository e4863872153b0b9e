"""What a command names that may be a file or a folder: when a program only looks whether it is there, nobody tells of that."""

from __future__ import annotations

import os
import re
from collections.abc import Iterable, Iterator

_WORD = re.compile(r"[\w./~+@%-]*\w")
_LOOKS = re.compile(
    r"exist|access|stat|is_?(?:file|dir)|\btry\b|catch|rescue|except|\|\||\[ |\btest\b|-[adefrs]\b|>>|append|['\"]a\+?b?['\"]"
    r"|r\+|mkdir(?!\s+(?:-\w*p|--parents))",
    re.IGNORECASE,
)
_MOST = 500
"""Words of one command that are looked at."""


def asks(code: str) -> bool:
    """Whether there are signs that it asks whether a file is there, goes on without it, or adds to it."""
    return _LOOKS.search(code) is not None


def words_of(code: str) -> set[str]:
    """Words of code that may be paths."""
    return set(_WORD.findall(code))


def may_be_missing(words: Iterable[str], code: str) -> list[str]:
    """Those of which it counts that nothing is there: any, where the code asks; else those that are paths by their looks."""
    any_word = asks(code)
    return [word for word in sorted(words) if any_word or "." in word or "/" in word]


def given_to(arguments: Iterable[object]) -> Iterator[str]:
    """What a process is begun with, as texts: its program, its arguments, or a line for a shell."""
    for one in arguments:
        if isinstance(one, (str, bytes, os.PathLike)):
            yield os.fsdecode(os.fspath(one))
        elif isinstance(one, (list, tuple)):
            yield from given_to(one)


def paths_in(texts: Iterable[str]) -> list[str]:
    """What of that may be paths: each whole, and the words in it."""
    found: dict[str, None] = {}
    for text in texts:
        found[text] = None
        found |= dict.fromkeys(sorted(words_of(text)))
    return [path for path in found if path and "\0" not in path][:_MOST]
