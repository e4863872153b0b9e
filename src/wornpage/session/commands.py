"""What a command names that may be a file or a folder: when a program only looks whether it is there, nobody tells of that."""

from __future__ import annotations

import os
import re
from collections.abc import Iterable, Iterator, Sequence

_WORD = re.compile(r"[\w./~+@%-]*\w")
_LOOKS = re.compile(
    r"exist|access|stat|is_?(?:file|dir)|\btry\b|catch|rescue|except|\|\||\[ |\btest\b|-[adefrs]\b|mkdir(?!\s+(?:-\w*p|--parents))",
    re.IGNORECASE,
)
_APPENDS = re.compile(r">>|append|\btee\s+-\w*a|['\"]a\+?b?['\"]|r\+", re.IGNORECASE)
_LISTS = re.compile(
    r"glob|list_?dir|scandir|iterdir|walk\b|read_?dir|list[._]files|list\.dirs|\bls\b|\bfind\b|\btree\b|\bdu\b|\btar\b|\bzip\b|rsync",
)
_STAR = re.compile(r"(?<!\*)\*(?![*{(])")
_NAME = re.compile(r"[\w./~+@%: -]{1,255}")
_TIMES = re.compile(
    r"[mac]time|\bstat\b|\bls\s+-\w*[lt]|-newer|-[nao]t\b|-[mac]min\b|\bmake\b|rsync|\bdate\s+(?:-r|--reference)|file[._]info|"
    r"last_?modified|\bdu\b.*--time|cp\s+-\w*[ap]|copy2|copystat|\btouch\s+(?:-r|--reference)"
)
_RIGHTS = re.compile(
    r"\bstat\b|\bls\s+-\w*l|-perm\b|chmod|chown|-(?:user|group)\b|\[\[?\s+(?:!\s+)?-[rwxOGugk]\b|test\s+(?:!\s+)?-[rwxOGugk]\b|st_mode|"
    r"\baccess\b|file[._](?:access|mode|info)|copymode|copystat|os\.access"
)
_BESIDE = {"times": _TIMES, "rights": _RIGHTS}
"""Words for what files have beside what they hold, by the kind of read."""
_MOST = 500
"""Words of one command that are looked at."""


def asks(code: str) -> bool:
    """Whether there are signs that it asks whether a file is there, goes on without it, or adds to it."""
    return _LOOKS.search(code) is not None or appends(code)


def asks_repository(code: str) -> bool:
    """Whether a repository's program is named, which looks where its files are by itself."""
    return re.search(r"(?<![\w.-])git(?![\w.-])", code) is not None


def words_beside(code: str) -> list[str]:
    """Kinds of reads (`times`, `rights`) of what files have beside what they hold, for which it has words."""
    return [kind for kind, words in _BESIDE.items() if words.search(code)]


def appends(code: str) -> bool:
    """Whether there are signs that it adds to files."""
    return _APPENDS.search(code) is not None


def words_of(code: str) -> set[str]:
    """Words of code that may be paths."""
    return set(_WORD.findall(code))


def may_be_missing(words: Iterable[str], code: str) -> list[str]:
    """Those of which it counts that nothing is there: any, where the code asks; else those that are paths by their looks."""
    any_word = asks(code)
    may = [word for word in sorted(words) if _NAME.fullmatch(word) and not word.startswith("-")]
    return [word for word in may if any_word or "." in word or "/" in word]


def lists_folders(code: str) -> bool:
    """Whether code has words for asking what is in a folder."""
    return _LISTS.search(code) is not None


def sought_for_modules(folder: str, project: str, commands: Sequence[str], scripts: Sequence[str]) -> bool:
    """Whether programs that were begun with `commands`, and opened these `scripts`, went through a folder in search of modules only.

    Python does so with the folder that it runs in and with those of packages, for each module that it imports.
    """
    is_python = bool(scripts) or any("python" in one for one in commands)
    if not is_python or any(lists_folders(one) or _STAR.search(one) for one in commands):
        return False
    return (folder == project or _holds_modules(folder)) and not any(lists_folders(_text(path)) for path in scripts)


def _holds_modules(folder: str) -> bool:
    try:
        with os.scandir(folder) as entries:
            return any(entry.name.endswith(".py") for entry in entries)
    except OSError:
        return False


def _text(path: str) -> str:
    from pathlib import Path

    try:
        return Path(path).read_text(encoding="utf-8", errors="replace")
    except OSError:
        return ""


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
