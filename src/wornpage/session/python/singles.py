"""Objects of which there is one, whose state is carried as part of the surroundings: kept and told by name, not by content.

A name of the page that stands for one of them, such as `context = decimal.getcontext()`, is that very object again.
"""

from __future__ import annotations

import sys
from collections.abc import Callable
from typing import Any, NamedTuple


class Single(NamedTuple):
    """One of them: the name of its type, the module that must be loaded, and how to get at it."""

    kind: str
    library: str
    get: Callable[[Any], object]


SINGLES = {
    "os.environ": Single("_Environ", "os", lambda m: m.environ),
    "os.environb": Single("_Environ", "os", lambda m: getattr(m, "environb", None)),
    "decimal's context": Single("Context", "decimal", lambda m: m.getcontext()),
    "matplotlib.rcParams": Single("RcParams", "matplotlib", lambda m: m.rcParams),
    "standard output": Single("TextIOWrapper", "sys", lambda m: m.__stdout__),
    "standard error": Single("TextIOWrapper", "sys", lambda m: m.__stderr__),
    "standard input": Single("TextIOWrapper", "sys", lambda m: m.__stdin__),
    "pandas' options": Single("DictWrapper", "pandas._config.config", lambda m: m.options),
}
_KINDS = frozenset(one.kind for one in SINGLES.values())


def name_of(value: object) -> str:
    """The name of a single object; empty for any other."""
    if type(value).__name__ not in _KINDS:
        return ""
    for name, (_, library, get) in SINGLES.items():
        module = sys.modules.get(library)
        if module is not None and get(module) is value:
            return name
    return ""


def single(name: str) -> object:
    """The object of that name."""
    _, library, get = SINGLES[name]
    __import__(library)
    return get(sys.modules[library])


def plain_ones() -> list[object]:
    """Lists of which there is one, and which have no name by which they could be told: whoever holds them is live."""
    found = [sys.path, sys.argv, sys.meta_path]
    warnings = sys.modules.get("warnings")
    return found if warnings is None else [*found, warnings.filters]
