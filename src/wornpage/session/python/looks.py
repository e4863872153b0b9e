"""What modules looked like when they were last seen, and whether all of them still look so.

Thousands of modules are compared at each chunk's and each mark's end. Nearly always nothing has moved, and that is found out
in one go over everything; who has moved, and how, is looked for only then.
"""

from __future__ import annotations

import operator
import sys
from collections.abc import Iterable, Mapping
from itertools import chain
from types import ModuleType
from typing import Any, NamedTuple

from wornpage.session.python import registries


class Look(NamedTuple):
    """The objects themselves, held, so that none of their places is taken by another."""

    names: Mapping[str, object]
    classes: list[tuple[type, dict[str, object]]]
    """Classes that are looked into as well, with their attributes."""
    tables: registries.Tables


class _Whole(NamedTuple):
    """All that is compared, laid side by side."""

    names: list[str]
    modules: list[ModuleType]
    holders: list[Mapping[str, object]]
    """Dictionaries of modules and classes, as they change."""
    lengths: list[int]
    values: list[object]
    last: list[str | None]
    """The last name of each: what is renamed stands last."""
    with_tables: list[str]
    """Modules into whose tables is looked."""


class Looks(dict[str, tuple[ModuleType, Look]]):
    """Modules, with their looks, by name."""

    _whole: _Whole | None = None

    def __setitem__(self, name: str, seen: tuple[ModuleType, Look]) -> None:
        self._whole = None
        super().__setitem__(name, seen)

    def forget(self, name: str | None = None) -> None:
        """Forget one of them, or all."""
        self._whole = None
        if name is None:
            self.clear()
        else:
            self.pop(name, None)

    def renew(self, module: str, name: str) -> None:
        """What stands for a name in a module now is what it is held against from here on."""
        if module in self:
            place, look = self[module]
            self[module] = (place, look._replace(names={**look.names, name: place.__dict__[name]}))

    def unmoved(self) -> bool:
        """Whether every module is the one that it was, and its names and looked-at classes hold the very same things."""
        whole = self._laid_out()
        return (
            _are(map(sys.modules.get, whole.names), whole.modules)
            and list(map(len, whole.holders)) == whole.lengths
            and list(map(_last, whole.holders)) == whole.last
            and _are(chain.from_iterable([holder.values() for holder in whole.holders]), whole.values)
        )

    def with_tables(self) -> list[str]:
        """Names of the modules into whose tables is looked."""
        return self._laid_out().with_tables

    def _laid_out(self) -> _Whole:
        if self._whole is None:
            self._whole = _lay_out(self)
        return self._whole


def _are(now: Iterable[object], before: Iterable[object]) -> bool:
    return all(map(operator.is_, now, before))


def _last(names: Any) -> str | None:
    name: str | None = next(reversed(names), None)
    return name


def _lay_out(looks: Looks) -> _Whole:
    holders: list[Mapping[str, object]] = []
    held: list[Mapping[str, object]] = []
    for module, look in looks.values():
        holders += [module.__dict__, *(kind.__dict__ for kind, _ in look.classes)]
        held += [look.names, *(attributes for _, attributes in look.classes)]
    with_tables = [name for name, (_, look) in looks.items() if look.tables and registries.is_looked_into(name)]
    values = list(chain.from_iterable(one.values() for one in held))
    modules = [module for module, _ in looks.values()]
    return _Whole(list(looks), modules, holders, list(map(len, held)), values, list(map(_last, held)), with_tables)
