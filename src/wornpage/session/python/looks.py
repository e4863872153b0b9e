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
from wornpage.session.python.versions import Versions, differing


class Look(NamedTuple):
    """The objects themselves, held, so that none of their places is taken by another."""

    names: Mapping[str, object]
    classes: list[tuple[type, dict[str, object]]]
    """Classes that are looked into as well, with their attributes."""
    tables: registries.Tables


_Of = tuple[str, registries.Table]
"""A table, with the name of its module."""


class _Whole(NamedTuple):
    """All that is compared, laid side by side."""

    names: list[str]
    modules: list[ModuleType]
    holders: list[Mapping[str, object]]
    """Dictionaries of modules and classes, as they change."""
    held: list[Mapping[str, object]]
    """What was in them."""
    versions: Versions
    """Of the loaded modules, and of those dictionaries."""
    tables: list[_Of]
    """Those within modules into whose tables is looked, but for dictionaries."""
    dictionaries: list[_Of]
    versions_of_dictionaries: Versions


class Looks(dict[str, tuple[ModuleType, Look]]):
    """Modules, with their looks, by name."""

    _whole: _Whole | None = None
    _settled: list[int] | None = None
    """Numbers of the dictionaries when all of them were last found to be as they were."""
    _settled_tables: list[int] | None = None
    all_in: list[int] | None = None
    """The number of the loaded modules when each of them was last among these."""

    def __setitem__(self, name: str, seen: tuple[ModuleType, Look]) -> None:
        self._lay_aside()
        super().__setitem__(name, seen)

    def forget(self, name: str | None = None) -> None:
        """Forget one of them, or all."""
        self._lay_aside()
        self.all_in = None
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
        now = whole.versions.now()
        moved = differing(now, self._settled)
        is_so = _all_are(whole) if moved is None else all(_is_as_it_was(whole, at) for at in moved)
        self._settled = now if is_so else None
        return is_so

    def moved_tables(self) -> list[str]:
        """Names of the modules that may have something else in one of the tables into which is looked."""
        whole = self._laid_out()
        now = whole.versions_of_dictionaries.now()
        moved = differing(now, self._settled_tables)
        looked_at = whole.dictionaries if moved is None else [whole.dictionaries[at] for at in moved]
        found = [name for name, table in (*looked_at, *whole.tables) if not registries.is_as_before(table)]
        self._settled_tables = None if found else now
        return list(dict.fromkeys(found))

    def _lay_aside(self) -> None:
        self._whole = self._settled = self._settled_tables = None

    def _laid_out(self) -> _Whole:
        if self._whole is None:
            self._whole = _lay_out(self)
        return self._whole


def _all_are(whole: _Whole) -> bool:
    return (
        _are(map(sys.modules.get, whole.names), whole.modules)
        and list(map(len, whole.holders)) == list(map(len, whole.held))
        and list(map(_last, whole.holders)) == list(map(_last, whole.held))
        and _are(
            chain.from_iterable([one.values() for one in whole.holders]),
            chain.from_iterable([one.values() for one in whole.held]),
        )
    )


def _is_as_it_was(whole: _Whole, at: int) -> bool:
    """Whether the loaded modules, which come first, or one of the dictionaries are as they were."""
    if at == 0:
        return _are(map(sys.modules.get, whole.names), whole.modules)
    now, before = whole.holders[at - 1], whole.held[at - 1]
    return len(now) == len(before) and _last(now) == _last(before) and _are(now.values(), before.values())


def _are(now: Iterable[object], before: Iterable[object]) -> bool:
    return all(map(operator.is_, now, before))


def _last(names: Any) -> str | None:
    """The last name: what is renamed stands last."""
    name: str | None = next(reversed(names), None)
    return name


def _lay_out(looks: Looks) -> _Whole:
    holders: list[Mapping[str, object]] = []
    held: list[Mapping[str, object]] = []
    for module, look in looks.values():
        holders += [module.__dict__, *(kind.__dict__ for kind, _ in look.classes)]
        held += [look.names, *(attributes for _, attributes in look.classes)]
    tables = [
        (name, table)
        for name, (_, look) in looks.items()
        if registries.is_looked_into(name)
        for table in look.tables.values()
    ]
    dictionaries = [(name, table) for name, table in tables if type(table.source) is dict]
    others = [
        (name, table)
        for name, table in tables
        if isinstance(table.source, registries.CHANGING) and type(table.source) is not dict
    ]
    modules = [module for module, _ in looks.values()]
    inner = Versions([table.source for _, table in dictionaries if isinstance(table.source, dict)])
    versions = Versions([sys.modules, *holders])
    return _Whole(list(looks), modules, holders, held, versions, others, dictionaries, inner)
