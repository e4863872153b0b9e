"""The languages there are: ours, each with its folder, and those that installed packages bring."""

from __future__ import annotations

from functools import cache
from importlib import import_module

from wornpage.session.language import Language
from wornpage.tree.plugins import brought, load

TABLE = {
    "python": "wornpage.session.python.language",
}
"""By name: the module that has a `LANGUAGE`."""
ENTRY_POINTS = "wornpage.languages"
"""The group of entry points by which a package brings a language: each names an object as `LANGUAGE` is."""


@cache
def language_of(name: str) -> Language | None:
    """The language of that name, or with that word behind its fences; None if there is none."""
    if name in TABLE:
        language: Language = import_module(TABLE[name]).LANGUAGE
        return language
    return next((one for one in _all() if name == one.name or name in one.fences), None)


@cache
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
    return tuple(one.name for one in _all())


@cache
def _all() -> tuple[Language, ...]:
    ours = [import_module(place).LANGUAGE for place in TABLE.values()]
    return (*ours, *map(load, brought(ENTRY_POINTS).values()))


def forget() -> None:
    """Look anew which languages there are."""
    brought.cache_clear()
    language_of.cache_clear()
    known.cache_clear()
    _all.cache_clear()


__all__ = ["ENTRY_POINTS", "TABLE", "forget", "known", "language_of", "means", "names"]
