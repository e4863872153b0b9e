"""Random numbers start anew at every chunk, from the chunk's own seed."""

from __future__ import annotations

import copy
import itertools
import random
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from types import ModuleType
from typing import Any

from wornpage.session.python import hooks

_seed = 0
_drawn = itertools.count()
_hooked = False


def plant(seed: int) -> None:
    """Seed every generator that can be reached; those of a library not yet imported, when it is."""
    global _seed, _drawn, _hooked, _asked
    _seed, _drawn, _asked = seed, itertools.count(), False
    random.seed(seed)
    _first["random"] = random.getstate()
    if "numpy.random" in sys.modules:
        sys.modules["numpy.random"].seed(seed)
        _first["numpy"] = _numpy_state(sys.modules["numpy.random"])
    if not _hooked:
        _hooked = True
        hooks.after_import("numpy.random", _take_over)


@contextmanager
def untouched() -> Iterator[None]:
    """While something is brought in for the running code: numbers that libraries draw as they are imported are not its own."""
    global _drawn, _asked
    state, numpy = random.getstate(), sys.modules.get("numpy.random")
    drawn, asked, counted = numpy.get_state() if numpy else None, _asked, copy.copy(_drawn)
    try:
        yield
    finally:
        random.setstate(state)
        _drawn, _asked = counted, asked
        module = sys.modules.get("numpy.random")
        if module is not None and drawn is not None:
            module.set_state(drawn)
        elif module is not None:
            module.seed(_seed)


def used() -> bool:
    """Whether random numbers have been drawn from the chunk's seed since it was planted."""
    if _asked or random.getstate() != _first.get("random"):
        return True
    module = sys.modules.get("numpy.random")
    return module is not None and "numpy" in _first and _numpy_state(module) != _first["numpy"]


def _numpy_state(module: Any) -> Any:
    state = module.get_state()
    return (state[1].tobytes(), *state[2:])


_first: dict[str, object] = {}
_asked = False


def _take_over(module: ModuleType) -> None:
    """Seed NumPy, and give `default_rng()` without a seed one that follows from the chunk's."""
    module.seed(_seed)
    _first["numpy"] = _numpy_state(module)
    make = module.default_rng

    def default_rng(seed: object = None) -> object:
        global _asked
        _asked = _asked or seed is None
        return make([_seed, next(_drawn)] if seed is None else seed)

    default_rng.__doc__ = make.__doc__
    module.default_rng = default_rng  # type: ignore[attr-defined]
