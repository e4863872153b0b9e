"""Random numbers start anew at every chunk, from the chunk's own seed."""

from __future__ import annotations

import random
import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import partial
from types import ModuleType
from typing import Any, NamedTuple

from wornpage.session.python import hooks
from wornpage.session.python.modules import is_being_loaded


class Generator(NamedTuple):
    """The one generator of a library, which everybody uses who names no other: where it is, and how to handle it."""

    library: str
    seed: Callable[[Any, int], object]
    told: Callable[[Any], object]
    """Where it stands, as something that can be compared."""
    state: Callable[[Any], object] | None = None
    """The same, so that it can be put back; None for one that tells only by drawing from it."""
    put: Callable[[Any, object], object] | None = None


def _numpy_told(module: Any) -> object:
    state = module.get_state()
    return (state[1].tobytes(), *state[2:])


GENERATORS = {
    "numpy": Generator("numpy.random", lambda m, n: m.seed(n), _numpy_told, lambda m: m.get_state(), lambda m, s: m.set_state(s)),
    "torch": Generator(
        "torch", lambda m, n: m.manual_seed(n), lambda m: m.get_rng_state().numpy().tobytes(),
        lambda m: m.get_rng_state(), lambda m, s: m.set_rng_state(s),
    ),
    "polars": Generator("polars", lambda m, n: m.set_random_seed(n), lambda m: tuple(m.Series(range(8)).shuffle())),
}  # fmt: skip
"""Beside Python's own."""
_seed = 0
_drawn = 0
_forks = 0
"""Processes that the chunk has forked off."""
_hooked = False


def plant(seed: int) -> None:
    """Seed every generator that can be reached; those of a library not yet imported, when it is."""
    global _seed, _drawn, _hooked, _asked, _forks
    _seed, _drawn, _asked, _forks = seed, 0, False, 0
    random.seed(seed)
    _first["random"] = random.getstate()
    for name, module in _there():
        _plant(name, module)
    if not _hooked:
        _hooked = True
        for name, generator in GENERATORS.items():
            hooks.after_import(generator.library, partial(_plant, name))
        hooks.after_import("numpy.random", _take_over)


def _there() -> list[tuple[str, object]]:
    """Generators whose libraries are loaded."""
    found = {name: generator.library for name, generator in GENERATORS.items()}
    return [
        (name, sys.modules[library])
        for name, library in found.items()
        if library in sys.modules and not is_being_loaded(library)
    ]


def _plant(name: str, module: object) -> None:
    one = GENERATORS[name]
    one.seed(module, _seed)
    _first[name] = one.told(module)
    if one.state is None:
        one.seed(module, _seed)


def _state_of(name: str, module: object) -> object:
    state = GENERATORS[name].state
    return None if state is None else state(module)


@contextmanager
def untouched() -> Iterator[None]:
    """While something is brought in for the running code: numbers that libraries draw as they are imported are not its own."""
    global _drawn, _asked
    state, asked, counted = random.getstate(), _asked, _drawn
    there = {name: _state_of(name, module) for name, module in _there()}
    try:
        yield
    finally:
        random.setstate(state)
        _drawn, _asked = counted, asked
        for name, module in _there():
            one = GENERATORS[name]
            if name not in there:
                one.seed(module, _seed)
            elif one.put is not None:
                one.put(module, there[name])


def will_fork() -> None:
    """A process is about to be forked off, and may draw numbers."""
    global _asked, _forks
    _asked = True
    _forks += 1


def is_forked() -> None:
    """In that process: Python has seeded its numbers from the clock, so that all such have others; have them follow from the seed."""
    random.seed(f"{_seed} {_forks}")


def used() -> bool:
    """Whether random numbers have been drawn from the chunk's seed since it was planted. To be asked at the end: asking may draw."""
    if _asked or random.getstate() != _first.get("random"):
        return True
    return any(name in _first and GENERATORS[name].told(module) != _first[name] for name, module in _there())


_first: dict[str, object] = {}
_asked = False


def _take_over(module: ModuleType) -> None:
    """Give NumPy's `default_rng()` without a seed one that follows from the chunk's."""
    make = module.default_rng

    def default_rng(seed: object = None) -> object:
        global _asked, _drawn
        if seed is not None:
            return make(seed)
        _asked = True
        _drawn += 1
        return make([_seed, _drawn - 1])

    default_rng.__doc__ = make.__doc__
    module.default_rng = default_rng  # type: ignore[attr-defined]
