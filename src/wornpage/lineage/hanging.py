"""The other way: all that hangs on a file, one of its columns, a chunk, a package or a given value."""

from __future__ import annotations

import re
from collections.abc import Callable
from pathlib import PurePath

from msgspec import Struct

from wornpage.lineage.finding import Target, shown_of
from wornpage.lineage.steps import Lineage, Step
from wornpage.store.packages import normal
from wornpage.tree import nodes as n
from wornpage.tree.problem import near_miss

_SHOWN = {"value", "figure", "table", "words", "heading", "equation", "listing"}
_COLUMN = re.compile(r"(.+?)\[(.+)\]$")


class Hanging(Struct, frozen=True):
    """What hangs on something."""

    name: str
    """What it is called in full."""
    steps: tuple[Step, ...]
    """In page order."""
    shown: tuple[Target, ...]
    """What readers see of it, in page order."""
    named: frozenset[str] = frozenset()
    """For a column: the keys of the steps whose code names it. Others may use it, too, since code may take a frame as a whole."""


def hanging_on(what: str, page: n.Composed, lineage: Lineage) -> Hanging:
    """All of `page` that hangs on `what`. Raises `LookupError`, with a hint, for what nothing of it has read."""
    column = _COLUMN.match(what)
    name, starts = _starts(column[1] if column else what, lineage)
    steps = tuple(lineage.below(starts))
    keys = {step.key for step in steps}
    named = frozenset(
        step.key
        for step in steps
        if column and any(column[2].strip("\"'") in flow.named.columns for flow in step.flows)
    )
    if column and not named:
        known = {one for step in steps for flow in step.flows for one in flow.named.columns}
        raise LookupError(near_miss(column[2], known) or f"No code names a column {column[2]!r} of {name}.")
    shown = tuple(
        one
        for one in shown_of(page, lineage)
        if one.step in keys and one.kind in _SHOWN and (one.said or one.label)  # what has neither cannot be told
    )
    return Hanging(f"{name}[{column[2]}]" if column else name, steps, shown, named)


_Same = Callable[[str], bool]


def _starts(what: str, lineage: Lineage) -> tuple[str, set[str]]:
    """The full name of something, and the steps that read it themselves."""
    steps = lineage.steps.values()
    if what.removeprefix("#") in lineage.steps:
        return what.removeprefix("#"), {what.removeprefix("#")}
    given = what.removeprefix("given.")
    wanted = PurePath(what)
    ways: tuple[tuple[set[str], _Same], ...] = (
        ({"file", "module", "database"}, lambda name: PurePath(name) == wanted),
        ({"file", "module"}, lambda name: PurePath(name).name == what),
        ({"given"}, lambda name: name == given),
        ({"package"}, lambda name: normal(name) == normal(what)),
        ({"environment"}, lambda name: name == what),
    )
    for kinds, same in ways:
        found = {
            step.key: source.name
            for step in steps
            for source in step.sources
            if source.kind in kinds and same(source.name)
        }
        if found:
            return next(iter(found.values())), set(found)
    known = {source.name for step in steps for source in step.sources if source.name}
    raise LookupError(near_miss(what, {*known, *(step.label for step in steps if step.label)}))
