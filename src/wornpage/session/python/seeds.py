"""Random numbers start anew at every chunk, from the chunk's own seed."""

from __future__ import annotations

import itertools
import random
import sys
from types import ModuleType
from typing import Any

from wornpage.session.python import hooks

_seed = 0
_drawn = itertools.count()
_hooked = False


def plant(seed: int) -> None:
    """Seed every generator that can be reached; those of a library not yet imported, when it is."""
    global _seed, _drawn, _hooked
    _seed, _drawn = seed, itertools.count()
    random.seed(seed)
    if "numpy.random" in sys.modules:
        sys.modules["numpy.random"].seed(seed)
    if not _hooked:
        _hooked = True
        hooks.after_import("numpy.random", _take_over)


def _take_over(module: ModuleType) -> None:
    """Seed NumPy, and give `default_rng()` without a seed one that follows from the chunk's."""
    module.seed(_seed)
    make = module.default_rng

    def default_rng(seed: Any = None) -> Any:
        return make([_seed, next(_drawn)] if seed is None else seed)

    default_rng.__doc__ = make.__doc__
    module.default_rng = default_rng  # type: ignore[attr-defined]
