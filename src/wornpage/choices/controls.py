"""What readers may pick within a pressed page: the values of its controls, and all that they can be together."""

from __future__ import annotations

import datetime
import itertools
import math
from collections.abc import Iterator, Sequence
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from wornpage.choices.sets import editions_of
from wornpage.settings import Settings
from wornpage.settings.givens import Declared, as_written
from wornpage.source import Page
from wornpage.tree.problem import PageError, Problem, near_miss

_PLACE = ("press", "html", "controls")


class Choices(Struct, frozen=True):
    """The controls of a page."""

    declared: dict[str, Declared]
    """What can be picked, as a reader sees it: only the values that there are."""
    given: dict[str, object]
    """What is picked first."""
    sets: tuple[dict[str, object], ...]
    """All that can be picked together, values as written: the first is that of the page as it is pressed."""


def choices_of(page: Page, settings: Settings) -> Choices | None:
    """The controls that a page's settings name; None for none. Raises `PageError` with their places."""
    options = settings.page.press.html
    if not options.controls:
        return None
    problems = list(_unfit(settings, options.controls))
    if problems:
        raise PageError(problems)
    names = list(dict.fromkeys(options.controls))
    of_editions = options.controls_from == "editions"
    sets = _of_editions(page, settings, names) if of_editions else _combined(settings, names, options.most_states)
    here = {name: as_written(settings.given[name]) for name in names}
    sets = [here, *(one for one in sets if one != here)]
    if len(sets) > options.most_states:
        raise _too_many(settings, len(sets), options.most_states)
    declared = {name: _as_picked(settings.declared[name], [one[name] for one in sets]) for name in names}
    return Choices(declared, {name: settings.given[name] for name in names}, tuple(sets))


def _unfit(settings: Settings, names: Sequence[str]) -> Iterator[Problem]:
    for at, name in enumerate(names):
        place = settings.place(*_PLACE, at)
        one = settings.declared.get(name)
        if one is None:
            hint = near_miss(name, settings.declared) or f"There are: {', '.join(settings.declared) or 'none'}."
            yield Problem(place, f"this page has no given {name!r} that could be a control.", hint)
        elif one.kind == "list":
            yield Problem(place, f"{name} is a list, which no control of a page can be.", "Name givens with one value.")
        elif settings.given[name] is None:
            yield Problem(place, f"{name} has no value to begin with.", "Give it a `default:`.")


def _combined(settings: Settings, names: list[str], most: int) -> list[dict[str, object]]:
    """All combinations, in the order of the names."""
    stops = [_stops(settings, name, at, most) for at, name in enumerate(names)]
    count = math.prod(map(len, stops))
    if count > most:
        raise _too_many(settings, count, most)
    return [
        dict(zip(names, (as_written(value) for value in values), strict=True)) for values in itertools.product(*stops)
    ]


def _too_many(settings: Settings, count: int, most: int) -> PageError:
    what = f"these controls can stand in {count:,} ways, and a page of its own is made for each: no more than {most:,} here."
    hint = "Name fewer controls, give them fewer values or a wider `step:`, take those of the editions (`controls-from: editions`), or raise `most-states:`."
    return PageError([Problem(settings.place(*_PLACE), what, hint)])


def _stops(settings: Settings, name: str, at: int, most: int) -> list[object]:
    """All values of a given. Raises `PageError` where there is no end of them."""
    one = settings.declared[name]
    if one.one_of:
        return list(one.one_of)
    if one.kind == "yes/no":
        return [True, False]
    step = one.step or (1 if one.kind == "whole number" else None)
    is_bound = one.least is not None and one.most is not None
    if one.kind == "date" and is_bound:
        days = min((one.most - one.least).days, most)
        return [one.least + datetime.timedelta(day) for day in range(days + 1)]
    if step and is_bound:
        count = math.floor((one.most - one.least) / step + 1e-9)
        return [_at(one, step, place) for place in range(min(count, most) + 1)]
    what = f"there is no end of values that {name} can have, so that no page can be made for each."
    hint = "Give it `one-of:`, or `from:`, `to:` and `step:`; or take the values of the editions: `controls-from: editions`."
    raise PageError([Problem(settings.place(*_PLACE, at), what, hint)])


def _at(one: Declared, step: float, place: int) -> int | float:
    value = one.least + place * step
    return int(value) if one.kind == "whole number" else float(f"{value:.12g}")


def _of_editions(page: Page, settings: Settings, names: list[str]) -> list[dict[str, object]]:
    """What the editions give the controls."""
    found = [{name: as_written(one.values[name]) for name in names} for one in editions_of(page, settings)]
    return [one for at, one in enumerate(found) if one not in found[:at]]


def _as_picked(one: Declared, written: list[object]) -> Declared:
    """A given with nothing to pick but what there is; in order, where there is one."""
    values: list[Any] = list(dict.fromkeys(one.value(text) for text in written))
    if one.kind == "yes/no" or _are_all_stops(one, len(values)):
        return one
    if one.one_of:
        values.sort(key=one.one_of.index)
    elif one.kind != "text":
        values.sort()
    return replace(one, one_of=tuple(values))


def _are_all_stops(one: Declared, count: int) -> bool:
    """Whether a slider between its ends can stand at so many places."""
    if one.one_of or one.kind not in {"number", "whole number"} or one.least is None or one.most is None:
        return False
    step = one.step or (1 if one.kind == "whole number" else None)
    return step is not None and count == math.floor((one.most - one.least) / step + 1e-9) + 1
