"""Warnings become notices, in their place among what the chunk shows."""

from __future__ import annotations

import sys
import warnings
from collections.abc import Callable, Collection
from contextlib import suppress
from pathlib import Path
from types import ModuleType
from typing import Any, NamedTuple

from wornpage.session.python.modules import loaded
from wornpage.session.python.versions import Versions, differing

_version = 0
_OURS = str(Path(__file__).parents[2])


def asked() -> bool:
    """Whether a warning was raised since `begin`, shown or not: only then does what filters say matter.

    A module's memory of warnings gets the filters' version when it is looked at (`already_warned` in Python/_warnings.c).
    """
    return any(memory.get("version", -1) >= _version for memory in _memories() if memory)


class _Looked(NamedTuple):
    """Where memories of warnings may be, and where they are."""

    loaded: object
    """All modules, or their number."""
    places: list[dict[str, Any]]
    versions: Versions
    numbers: list[int] | None
    memories: dict[int, dict[str, Any]]
    """By place."""


_looked: list[_Looked] = []


def _memories() -> Collection[dict[str, Any]]:
    """All modules' memories of warnings given."""
    now: object = loaded.now() or list(sys.modules.values())
    if not _looked or _looked[0].loaded != now:
        places = [vars(one) for one in list(sys.modules.values()) if isinstance(one, ModuleType)]
        _looked[:] = [_Looked(now, places, Versions(places), None, {})]
    before = _looked[0]
    numbers = before.versions.now()
    moved = differing(numbers, before.numbers)
    for place in range(len(before.places)) if moved is None else moved:
        memory = dict.get(before.places[place], "__warningregistry__")  # not as a read, where it is the page's own
        if memory is not None:
            before.memories[place] = memory
        else:
            before.memories.pop(place, None)
    _looked[:] = [before._replace(numbers=numbers)]
    return before.memories.values()


def _note_version() -> None:
    global _version
    memory: Any = {}
    warnings.showwarning = lambda *parts, **more: None
    with suppress(UserWarning):
        warnings.warn_explicit("", UserWarning, "", 1, registry=memory)
    _version = memory.get("version", 0)


_own: list[object] = [warnings.showwarning]
"""What shows warnings, as long as no chunk has put something else in its place."""


def put_in_place() -> list[object]:
    """What a chunk has put in the place of what shows warnings."""
    return [] if any(warnings.showwarning is one for one in _own) else [warnings.showwarning]


def begin(show: Callable[[dict[str, object]], None]) -> None:
    """Forget which warnings were given before, and send those to come through `show`, unless a chunk has seen to them."""
    theirs = put_in_place()
    with warnings.catch_warnings():
        pass  # leaving the block resets every module's memory of warnings given
    _note_version()
    once: Any = getattr(warnings, "onceregistry", None)
    if once is not None:
        once.clear()  # and of those to be given but once

    def tell(
        message: Warning | str,
        category: type[Warning],
        filename: str,
        lineno: int,
        file: object = None,
        line: str | None = None,
    ) -> None:
        if filename.startswith(_OURS):
            return  # we have looked at something, as newer Pythons do not like it to be looked at
        show({"kind": "notice", "text": f"{category.__name__}: {message}"})

    _own[1:] = [tell]
    warnings.showwarning = theirs[0] if theirs else tell  # type: ignore[assignment]
