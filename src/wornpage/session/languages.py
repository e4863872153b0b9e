"""The languages there are: ours, each with its folder, and those that installed packages bring."""

from __future__ import annotations

from collections.abc import Mapping
from contextvars import ContextVar
from functools import cache
from importlib import import_module

from wornpage.session.language import Language
from wornpage.tree.plugins import brought, load

TABLE = {
    "python": "wornpage.session.python.language",
    "r": "wornpage.session.r.language",
    "sql": "wornpage.session.sql.language",
    "bash": "wornpage.session.bash.language",
}
"""By name: the module that has a `LANGUAGE`."""
ENTRY_POINTS = "wornpage.languages"
"""The group of entry points by which a package brings a language: each names an object as `LANGUAGE` is."""


_declared: ContextVar[dict[str, Language]] = ContextVar("declared", default={})  # noqa: B039  # never changed in place


def declare(programs: Mapping[str, tuple[str, str, str]]) -> None:
    """From now on, in this thread, these programs are languages too: by name the command, a suffix, and what begins a comment."""
    _declared.set({name: _program(name, told) for name, told in programs.items() if not is_built_in(name)})


def _program(name: str, told: tuple[str, str, str]) -> Language:
    from wornpage.session.program.language import Program

    return Program(name, *told)


def language_of(name: str) -> Language | None:
    """The language of that name, or with that word behind its fences; None if there is none."""
    return _declared.get().get(name) or _found(name)


@cache
def _found(name: str) -> Language | None:
    if name in TABLE:
        language: Language = import_module(TABLE[name]).LANGUAGE
        return language
    return next((one for one in _all() if name == one.name or name in one.fences), None)


def suffix_of(name: str) -> str:
    """What files end in that are for a program called so in the settings; empty for any other language."""
    program = _declared.get().get(name)
    return program.suffixes[0] if program else ""


def is_built_in(name: str) -> bool:
    """Whether a word stands for a language that is there without being declared."""
    return _found(name) is not None


def known(name: str) -> Language:
    """The language of a chunk that has been checked. Raises `LookupError` for none."""
    language = language_of(name)
    if language is None:
        raise LookupError(name)
    return language


def means(word: str, name: str) -> bool:
    """Whether a word behind a fence is one for the language of that name."""
    language = language_of(word)
    return language is not None and language.name == name


def names() -> tuple[str, ...]:
    """The names of all languages."""
    return (*(one.name for one in _all()), *_declared.get())


@cache
def _all() -> tuple[Language, ...]:
    ours = [import_module(place).LANGUAGE for place in TABLE.values()]
    return (*ours, *map(load, brought(ENTRY_POINTS).values()))


def forget() -> None:
    """Look anew which languages there are."""
    brought.cache_clear()
    _found.cache_clear()
    _all.cache_clear()


__all__ = [
    "ENTRY_POINTS",
    "TABLE",
    "declare",
    "forget",
    "is_built_in",
    "known",
    "language_of",
    "means",
    "names",
    "suffix_of",
]
