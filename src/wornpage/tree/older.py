"""What Python 3.9 has not: sessions run in it too. Imports nothing else of ours."""

from __future__ import annotations

import os
import sys

TYPE_CHECKING = False
if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator
    from types import CodeType
    from typing import Any

SLOTTED = {"slots": True} if sys.version_info >= (3, 10) else {}
"""For `dataclass`: attributes in slots, where that can be had."""


def _found_modules() -> frozenset[str]:
    place = os.path.dirname(os.__file__)
    folders = (place, os.path.join(place, "lib-dynload"))
    names = {name.partition(".")[0] for folder in folders if os.path.isdir(folder) for name in os.listdir(folder)}
    return frozenset(names | set(sys.builtin_module_names)) - {"site-packages", "__pycache__"}


STANDARD: frozenset[str] = getattr(sys, "stdlib_module_names", None) or _found_modules()
"""First names of the modules that come with Python."""


def handlers_of(code: CodeType) -> bytes:
    """Where code catches what goes wrong; empty for nowhere, and up to 3.10, where instructions say it."""
    return getattr(code, "co_exceptiontable", b"")


def catches(code: CodeType) -> bool:
    """Whether code has anything to do, or to clean up, when something goes wrong in it."""
    if sys.version_info >= (3, 11):  # noqa: UP036  # whoever runs Worn Page has that; sessions may not
        return bool(code.co_exceptiontable)
    import dis

    return any(one.opname.startswith("SETUP_") for one in dis.get_instructions(code))


def most_digits() -> int:
    """How many digits a whole number may have that is written; 0 for any number of them, and where Python sets no bound."""
    ask = getattr(sys, "get_int_max_str_digits", None)
    return int(ask()) if ask else 0


def unbound(function: Any) -> Any:
    """A function that stands for one written in C, and so is no method where it stands in a class: up to 3.10 `pathlib` has such."""
    if sys.version_info >= (3, 11):  # noqa: UP036
        return function
    from functools import partial

    made = partial(function)
    made.__name__, made.__doc__ = function.__name__, function.__doc__
    return made


_OVER = object()


def beside(*rows: Iterable[Any]) -> Iterator[tuple[Any, ...]]:
    """The first of each, the second of each, and so on. Raises `ValueError` if they are not equally many."""
    walks = [iter(row) for row in rows]
    while walks:
        found = tuple(next(walk, _OVER) for walk in walks)
        if all(one is _OVER for one in found):
            return
        if any(one is _OVER for one in found):
            raise ValueError("these are not equally many")
        yield found
