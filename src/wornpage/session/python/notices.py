"""Warnings become notices, in their place among what the chunk shows."""

from __future__ import annotations

import sys
import warnings
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from typing import Any

_version = 0
_OURS = str(Path(__file__).parents[2])


def asked() -> bool:
    """Whether a warning was raised since `begin`, shown or not: only then does what filters say matter.

    A module's memory of warnings gets the filters' version when it is looked at (`already_warned` in Python/_warnings.c).
    """
    for module in list(sys.modules.values()):
        names = getattr(module, "__dict__", None)
        memory = dict.get(names, "__warningregistry__") if isinstance(names, dict) else None
        if memory and memory.get("version", -1) >= _version:
            return True
    return False


def _note_version() -> None:
    global _version
    memory: Any = {}
    warnings.showwarning = lambda *parts, **more: None
    with suppress(UserWarning):
        warnings.warn_explicit("", UserWarning, "", 1, registry=memory)
    _version = memory.get("version", 0)


def begin(show: Callable[[dict[str, object]], None]) -> None:
    """Forget which warnings were given before, and send those to come through `show`."""
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

    warnings.showwarning = tell
